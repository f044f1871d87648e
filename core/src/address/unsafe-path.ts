/** BagIt (RFC 8493, section 5.1): paths that leave the bag, or would on some system. */
export function isUnsafePath(path: string): boolean {
  return (
    path === '' ||
    path.includes('\0') ||
    path.includes('\\') ||
    /^[/~]/.test(path) ||
    /^[A-Za-z]:/.test(path) ||
    path.split('/').some((s) => s === '..' || s === '.' || s === '')
  );
}
