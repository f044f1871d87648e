const STORED = 'rootmap-find-key';

/** The single-letter key for Find can be switched off (WCAG 2.2, 2.1.4): some people's software types letters by itself. */
export const isFindKeyOn = (): boolean => localStorage.getItem(STORED) !== 'off';
export const setFindKey = (on: boolean): void => localStorage.setItem(STORED, on ? 'on' : 'off');
