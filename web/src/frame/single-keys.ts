const STORED = 'rootmap-find-key';

/** Keys of a single letter can be switched off (WCAG 2.2, 2.1.4): some people's software types letters by itself. */
export const areSingleKeysOn = (): boolean => localStorage.getItem(STORED) !== 'off';
export const setSingleKeys = (on: boolean): void => localStorage.setItem(STORED, on ? 'on' : 'off');

/** A letter alone was pressed, and not into a field. */
export function isPressed(event: KeyboardEvent, key: string): boolean {
  const { target } = event;
  const isTyping = target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));
  return event.key === key && areSingleKeysOn() && !isTyping && !event.ctrlKey && !event.metaKey && !event.altKey;
}
