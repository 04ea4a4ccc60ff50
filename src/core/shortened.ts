/** The beginning of a value, for a sentence that names it: at most so many signs of it, and an ellipsis where it goes on. */
export const shortened = (text: string, signs = 60): string => (text.length > signs ? `${text.slice(0, signs)}…` : text)
