/** What can carry a bundle of a size. Limits: FAT32 from its specification; mail is common practice, no source. */
export interface Carrier {
  readonly name: string;
  readonly fits: boolean;
  readonly why: string;
  /** Null: no limit that a bundle meets. */
  readonly limitBytes: number | null;
}

const MAIL_BYTES = 20 * 1024 * 1024;
const FAT32_BYTES = 4_294_967_295;

export const carriersFor = (bytes: number): Carrier[] => [
  { name: 'mail', fits: bytes <= MAIL_BYTES, why: 'most mail servers refuse more than 20 MiB', limitBytes: MAIL_BYTES },
  { name: 'stick (FAT32)', fits: bytes <= FAT32_BYTES, why: 'a file on FAT32 has at most 4 GiB less one byte', limitBytes: FAT32_BYTES },
  { name: 'stick or drive (exFAT, NTFS, ext4)', fits: true, why: 'no limit that a bundle meets', limitBytes: null },
  { name: 'cloud folder', fits: true, why: 'limited by the space there', limitBytes: null },
];
