export async function writePage(..._: unknown[]): Promise<void> {}
