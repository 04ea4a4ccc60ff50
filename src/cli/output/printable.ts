/** Signs that a terminal, a page or an editor would obey instead of showing: controls, and marks that turn the writing direction or have no width. Newlines are none of them. */
const OBEYED = /[\u0000-\u0009\u000b-\u001f\u007f-\u009f\u061c\u200b\u200e\u200f\u2028-\u202e\u2060-\u2069\ufeff]/g

/** Text from outside made safe for a terminal: such signs are shown, not obeyed. */
export function printable(text: string): string {
  return text.replace(OBEYED, (sign) => (sign === '\t' ? '    ' : `\\u{${sign.codePointAt(0)!.toString(16)}}`))
}

/** A value as JSON (RFC 8259) in which every such sign is escaped. */
export function jsonText(value: unknown, indent?: number): string {
  return JSON.stringify(value, null, indent).replace(
    OBEYED,
    (sign) => `\\u${sign.charCodeAt(0).toString(16).padStart(4, '0')}`,
  )
}
