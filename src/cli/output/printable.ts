/** Text from outside made safe for a terminal: control signs and marks that turn the writing direction are shown, not obeyed. Newlines stay. */
export function printable(text: string): string {
  return text.replace(/[\u0000-\u0009\u000b-\u001f\u007f-\u009f\u061c\u200b\u200e\u200f\u2028-\u202e\u2060-\u2069\ufeff]/g, (sign) =>
    sign === '\t' ? '    ' : `\\u{${sign.codePointAt(0)!.toString(16)}}`,
  )
}
