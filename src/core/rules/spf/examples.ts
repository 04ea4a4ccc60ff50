export const bare = (text: string): string => `@ TXT "v=spf1 ${text}"`
