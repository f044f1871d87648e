/** Generic URI references: split, resolve, recompose. RFC 3986 sections 5.2, 5.3 and appendix B. */
export interface UriParts {
  readonly scheme: string | null;
  readonly authority: string | null;
  readonly path: string;
  readonly query: string | null;
  readonly fragment: string | null;
}

/** RFC 3986 appendix B. Every string matches; nothing throws. */
export function splitUri(text: string): UriParts {
  const m = /^(?:([^:/?#]+):)?(?:\/\/([^/?#]*))?([^?#]*)(?:\?([^#]*))?(?:#([\s\S]*))?$/.exec(text);
  if (!m) return { scheme: null, authority: null, path: text, query: null, fragment: null };
  return {
    scheme: m[1] ?? null,
    authority: m[2] ?? null,
    path: m[3] ?? '',
    query: m[4] ?? null,
    fragment: m[5] ?? null,
  };
}

/** RFC 3986 section 5.3. */
export function joinUri(p: UriParts): string {
  return (
    (p.scheme === null ? '' : `${p.scheme}:`) +
    (p.authority === null ? '' : `//${p.authority}`) +
    p.path +
    (p.query === null ? '' : `?${p.query}`) +
    (p.fragment === null ? '' : `#${p.fragment}`)
  );
}

/** RFC 3986 section 5.2.4, on whole segments. */
export function removeDotSegments(path: string): string {
  const absolute = path.startsWith('/');
  const parts = (absolute ? path.slice(1) : path).split('/');
  const out: string[] = [];
  parts.forEach((part, i) => {
    const last = i === parts.length - 1;
    if (part === '.') {
      if (last) out.push('');
    } else if (part === '..') {
      out.pop();
      if (last) out.push('');
    } else out.push(part);
  });
  return (absolute ? '/' : '') + out.join('/');
}

/** Resolves `reference` against the absolute URI `base`. RFC 3986 section 5.2.2, strict. */
export function resolveUri(base: string, reference: string): string {
  const b = splitUri(base);
  const r = splitUri(reference);
  if (r.scheme !== null) return joinUri({ ...r, path: removeDotSegments(r.path) });
  if (r.authority !== null) return joinUri({ ...r, scheme: b.scheme, path: removeDotSegments(r.path) });
  if (r.path === '') return joinUri({ ...b, query: r.query ?? b.query, fragment: r.fragment });
  const path = r.path.startsWith('/') ? r.path : mergePaths(b, r.path);
  return joinUri({ ...b, path: removeDotSegments(path), query: r.query, fragment: r.fragment });
}

/** RFC 3986 section 5.2.3. */
function mergePaths(base: UriParts, path: string): string {
  if (base.authority !== null && base.path === '') return `/${path}`;
  return base.path.slice(0, base.path.lastIndexOf('/') + 1) + path;
}
