/** The reason that is not the file's. */
export const tooManyFiles = 'too many files are open';

const reasons: Readonly<Record<string, string>> = {
  EACCES: 'permission denied',
  EPERM: 'permission denied',
  ENOENT: 'it does not exist',
  EISDIR: 'it is a folder',
  ENOTDIR: 'a parent of its path is a file',
  EEXIST: 'a parent of its path is a file',
  ENOTEMPTY: 'a folder with this name exists',
  ENOSPC: 'the disk is full',
  EDQUOT: 'the disk quota is exceeded',
  EFBIG: 'it would exceed the maximum file size',
  EROFS: 'the disk is read-only',
  ELOOP: 'it is a symbolic link that cannot be followed',
  EINVAL: 'it is not a regular file',
  ERR_FS_FILE_TOO_LARGE: 'it is larger than 2 GiB',
  EIO: 'the disk reports an error',
  ENXIO: 'it is not a regular file',
  ENAMETOOLONG: 'its name is too long',
  EMFILE: tooManyFiles,
  ENFILE: tooManyFiles,
};

/** The error of the operating system as part of a sentence. */
export function reasonOf(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException;
  return reasons[code ?? ''] ?? (code === undefined ? message : `system error ${code}`);
}
