const DATE = /^(\d{1,2})([./-])(\d{1,2})\2(\d{4})$/;

/** Day, month and year as `2025-12-31`; null: no such day. */
export function isoDate(text: string, isMonthFirst: boolean): string | null {
  const parts = DATE.exec(text);
  if (!parts) return null;
  const [day, month] = isMonthFirst ? [Number(parts[3]), Number(parts[1])] : [Number(parts[1]), Number(parts[3])];
  if (isMonthFirst && parts[2] === '.') return null; // between points the day stands first
  return isDay(Number(parts[4]), month, day) ? `${parts[4]}-${two(month)}-${two(day)}` : null;
}

const two = (n: number): string => String(n).padStart(2, '0');
const isDay = (year: number, month: number, day: number): boolean =>
  month >= 1 && month <= 12 && day >= 1 && day <= new Date(Date.UTC(year, month, 0)).getUTCDate();

/** `2025-12-31` (ISO 8601), if there is such a day. */
export function isIsoDate(text: string): boolean {
  const parts = /^(\d{4})-(\d\d)-(\d\d)$/.exec(text);
  return parts !== null && isDay(Number(parts[1]), Number(parts[2]), Number(parts[3]));
}

/** A number with a decimal comma, its thousands apart by points or not at all. */
export const COMMA_NUMBER = /^[-+]?(\d+|\d{1,3}(\.\d{3})+)(,\d+)?$/;
export const numberOfComma = (text: string): number => Number(text.replaceAll('.', '').replace(',', '.'));

const DEGREES =
  /^([NSEWO])?\s*([-+])?(\d{1,3})(?:\s*[°º:]\s*|\s+)(\d{1,2}(?:[.,]\d+)?)(?:\s*['′’:]?\s*(?:(\d{1,2}(?:[.,]\d+)?)\s*(?:"|″|”|'')?)?)\s*([NSEWO])?$/i;

/** Degrees with minutes, and seconds or not, as decimal degrees; south and west are below zero (`O` is west or east: not taken). Null: it is none. */
export function degreesOf(text: string): number | null {
  const parts = DEGREES.exec(text);
  if (!parts) return null;
  const side = (parts[1] ?? parts[6] ?? '').toUpperCase();
  if (side === 'O' || (parts[1] && parts[6]) || (side !== '' && parts[2])) return null;
  const [minutes, seconds] = [parts[4]!, parts[5] ?? '0'].map((p) => Number(p.replace(',', '.')));
  if (minutes! >= 60 || seconds! >= 60) return null;
  const size = Number(parts[3]) + minutes! / 60 + seconds! / 3600;
  return side === 'S' || side === 'W' || parts[2] === '-' ? -size : size;
}
