import { useSyncExternalStore } from 'react';

/** Colours read so far in each mode: asking the page makes it lay itself out, which a hundred pictures at a time may not do. */
const known = new Map<string, string>();
const mode = (): string => document.documentElement.getAttribute('data-mode') ?? '';

function subscribe(onChange: () => void): () => void {
  const observer = new MutationObserver(onChange);
  observer.observe(document.documentElement, { attributes: true, attributeFilter: ['data-mode'] });
  return () => observer.disconnect();
}

/** A colour of the theme as it is now, for what is drawn into a picture and does not follow the page by itself. */
export function useToken(name: `--${string}`): string {
  return useSyncExternalStore(subscribe, () => {
    const key = `${mode()} ${name}`;
    let colour = known.get(key);
    if (colour === undefined) {
      colour = getComputedStyle(document.documentElement).getPropertyValue(name).trim();
      known.set(key, colour);
    }
    return colour;
  });
}
