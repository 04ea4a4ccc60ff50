import { isRefused, type Result } from '../core/result.ts'

/** The call, or a file, cannot be used: one message for people, and the exit status. Everything else that is thrown is a bug. */
export class Trouble extends Error {
  readonly status: number
  constructor(message: string, status = 2) {
    super(message)
    this.status = status
  }
}

/** The value, or trouble that says what is wrong with the input. */
export function orTrouble<T>(made: Result<T>): T {
  if (isRefused(made)) throw new Trouble(made.refused)
  return made
}

/** What people should know of beside what a command says; the command line shows it at the end. */
export const notices = new Set<string>()

const SYSTEM: Record<string, string> = {
  ENOENT: 'no such file',
  EISDIR: 'it is a folder, not a file',
  ENOTDIR: 'a part of its path is not a folder',
  EACCES: 'its permissions do not allow it',
  EPERM: 'its permissions do not allow it',
  EROFS: 'the file system is read-only',
  ENOSPC: 'the disk is full',
  EDQUOT: 'the disk quota is used up',
  EIO: 'the disk reports an error',
  EMFILE: 'too many files are open',
  ELOOP: 'symbolic links form a loop',
  EEXIST: 'it already exists',
  ERR_FS_FILE_TOO_LARGE: 'it is larger than 2 GiB',
}

/** What went wrong with a file, in words. */
export function systemText(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException
  return (code && SYSTEM[code]) ?? code ?? message
}
