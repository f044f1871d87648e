/** Licences under which data is often published. Names as in the SPDX License List, titles and addresses from memory. */
export interface Licence {
  readonly name: string;
  readonly title: string;
  readonly path: string;
  /** Whoever uses the data has to name where it came from. */
  readonly asksForAttribution: boolean;
}

const licence = (name: string, title: string, path: string, asksForAttribution: boolean): Licence => ({
  name,
  title,
  path,
  asksForAttribution,
});

export const LICENCES: readonly Licence[] = [
  licence('CC0-1.0', 'Creative Commons Zero 1.0', 'https://creativecommons.org/publicdomain/zero/1.0/', false),
  licence('CC-BY-4.0', 'Creative Commons Attribution 4.0', 'https://creativecommons.org/licenses/by/4.0/', true),
  licence('CC-BY-SA-4.0', 'Creative Commons Attribution-ShareAlike 4.0', 'https://creativecommons.org/licenses/by-sa/4.0/', true),
  licence('CC-BY-NC-4.0', 'Creative Commons Attribution-NonCommercial 4.0', 'https://creativecommons.org/licenses/by-nc/4.0/', true),
  licence('ODbL-1.0', 'Open Data Commons Open Database License 1.0', 'https://opendatacommons.org/licenses/odbl/1-0/', true),
  licence('ODC-By-1.0', 'Open Data Commons Attribution License 1.0', 'https://opendatacommons.org/licenses/by/1-0/', true),
  licence('PDDL-1.0', 'Open Data Commons Public Domain Dedication 1.0', 'https://opendatacommons.org/licenses/pddl/1-0/', false),
];

/** The licence that a name or an address stands for; null: another one, told in words. */
export function licenceNamed(text: string): Licence | null {
  const wanted = text.trim().toLowerCase();
  return LICENCES.find((l) => [l.name, l.title, l.path].some((known) => known.toLowerCase() === wanted)) ?? null;
}

const plain = (text: string): string => text.toLowerCase().replace(/[\s-]+/g, ' ');

/** A known licence that a longer text names; null: it names none. */
export function licenceWithin(text: string): Licence | null {
  const words = plain(text);
  return LICENCES.find((l) => [l.name, l.title, l.path].some((name) => words.includes(plain(name)))) ?? null;
}
