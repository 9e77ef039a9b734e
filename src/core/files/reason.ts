const reasons: Readonly<Record<string, string>> = {
  EACCES: 'its rights do not allow it',
  EPERM: 'its rights do not allow it',
  ENOENT: 'it is not there',
  EISDIR: 'it is a folder',
  ENOTDIR: 'a part of its path is a file, not a folder',
  EEXIST: 'a part of its path is a file, not a folder',
  ENOTEMPTY: 'a folder of that name is there',
  ENOSPC: 'the disk is full',
  EDQUOT: 'the disk quota is used up',
  EFBIG: 'it would be larger than is allowed',
  EROFS: 'the disk is read-only',
  ELOOP: 'its symbolic links go in a circle',
  ENAMETOOLONG: 'its name is too long',
  EMFILE: 'too many files are open',
  ENFILE: 'too many files are open',
};

/** What the operating system said, in half a sentence. */
export function reasonOf(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException;
  return reasons[code ?? ''] ?? (code === undefined ? message : `the system says ${code}`);
}
