export const RUA = 'rua=mailto:dmarc@larkpost.example'

export const policy = (text: string): string => `_dmarc TXT "${text}"`
