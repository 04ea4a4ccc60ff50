/** The lines of a text without the blanks around them; those that are empty then are left out. */
export const trimmedLines = (text: string): string[] =>
  text
    .split(/[\r\n]/)
    .map((line) => line.trim())
    .filter((line) => line !== '')
