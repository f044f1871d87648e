export interface ChangeView {
  readonly id: string;
  readonly title: string;
  readonly kind: string;
  readonly who: string;
  readonly createdMs: number;
  readonly state: 'preparing' | 'applying' | 'taking-back' | 'done' | 'undone' | 'taken-back' | 'failed';
  /** It was left midway, and waits for its folder or its disk. */
  readonly isWaiting: boolean;
  readonly note: string | null;
  readonly files: readonly string[];
  readonly canUndo: boolean;
}

export interface AppliedView {
  readonly change: ChangeView | null;
  readonly applied: number;
  /** Layers that are still not sound, from disk. */
  readonly left: number;
}
