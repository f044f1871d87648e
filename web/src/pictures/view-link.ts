import type View from 'ol/View.js';
import { unByKey } from 'ol/Observable.js';
import { useState } from 'react';

/** Views of maps in one CRS that show the same place at the same size: when one moves, the others follow. */
export class ViewLink {
  private readonly views = new Set<View>();
  private isFollowing = false;

  /** @returns takes it out again */
  add(view: View): () => void {
    const [first] = this.views;
    if (first) this.copy(first, view);
    this.views.add(view);
    const key = view.on(['change:center', 'change:resolution'], () => this.follow(view));
    return () => {
      for (const k of [key].flat()) unByKey(k);
      this.views.delete(view);
    };
  }

  private follow(from: View): void {
    if (this.isFollowing) return; // what follows does not lead
    this.isFollowing = true;
    for (const view of this.views) if (view !== from) this.copy(from, view);
    this.isFollowing = false;
  }

  private copy(from: View, to: View): void {
    to.setCenter(from.getCenter());
    to.setResolution(from.getResolution());
  }
}

export const useViewLink = (): ViewLink => useState(() => new ViewLink())[0];
