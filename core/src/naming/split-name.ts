/** Endings of two parts: they stay with the name whole. */
const DOUBLE = /\.(owc\.json|rootmap\.json|tar\.gz)$/i;

/** A file name as stem and ending; the ending has its dot, and is '' where there is none. */
export function splitName(name: string): { stem: string; ending: string } {
  const double = DOUBLE.exec(name);
  const at = double ? double.index : name.lastIndexOf('.');
  return at <= 0 ? { stem: name, ending: '' } : { stem: name.slice(0, at), ending: name.slice(at) };
}
