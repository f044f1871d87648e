/** How far long work is, and what it is on. `of`: how much there is in all; 0 where that is not known. */
export interface Progress {
  readonly done: number;
  readonly of: number;
  readonly unit: 'bytes' | 'datasets' | 'files' | 'layers' | 'pixels' | 'records' | 'tiles';
  readonly item: string;
}
export type OnProgress = (progress: Progress) => void;
