/** What a folder is for. `originals` are never edited. */
export const ROLES = ['originals', 'working', 'results', 'maps', 'documents', 'geodatabases', 'exports', 'other'] as const;
export type Role = (typeof ROLES)[number];

export const isRole = (text: string): text is Role => (ROLES as readonly string[]).includes(text);

/**
 * The role of a path: that of the nearest folder that has one. Null: none.
 * @param path from the root, `/` as separator
 * @param folders as the project file has them: path → role
 */
export function roleOf(path: string, folders: Readonly<Record<string, string>>): Role | null {
  for (let at = path; at !== ''; at = at.slice(0, Math.max(0, at.lastIndexOf('/')))) {
    const role = Object.hasOwn(folders, at) ? folders[at]! : null;
    if (role !== null && isRole(role)) return role;
  }
  return null;
}
