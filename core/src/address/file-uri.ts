import type { Address } from './address.js';
import { encodeSegment } from './percent.js';

/** The address as a `file:` URI: RFC 8089 section 2 (POSIX), appendix E.2 (drive), appendix E.3.1 (UNC). */
export function toFileUri(a: Address): string {
  const path = a.segments.map(encodeSegment).join('/');
  const tail = a.isFolder && path ? '/' : '';
  switch (a.flavour) {
    case 'posix':
      return `file:///${path}${tail}`;
    case 'drive':
      return `file:///${a.root}/${path}${tail}`;
    case 'unc': {
      const [server = '', share = ''] = a.root.slice(2).split('/');
      return `file://${encodeURIComponent(server)}/${encodeSegment(share)}/${path}${tail}`;
    }
  }
}
