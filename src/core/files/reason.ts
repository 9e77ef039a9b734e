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
  ELOOP: 'it is a symbolic link that cannot be followed',
  EINVAL: 'it is not a regular file',
  ERR_FS_FILE_TOO_LARGE: 'it is larger than 2 GiB',
  EIO: 'the disk reports an error',
  ENXIO: 'it is not a regular file',
  ENAMETOOLONG: 'its name is too long',
  EMFILE: 'too many files are open',
  ENFILE: 'too many files are open',
};

/** What the operating system said, in half a sentence. */
export function reasonOf(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException;
  return reasons[code ?? ''] ?? (code === undefined ? message : `the system says ${code}`);
}
