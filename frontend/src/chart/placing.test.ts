import { describe, expect, it } from 'vitest';

import { placeNotes, thinnedOut } from './placing';

const places = (n: number, x: (k: number) => number, y: (k: number) => number) =>
  Array.from({ length: n }, (_, key) => ({ key, x: x(key), y: y(key) }));

describe('notes in the margins', () => {
  it('never overlap and never leave the chart, however close their places', () => {
    const notes = placeNotes(
      places(
        12,
        (k) => 300 + k,
        () => 200,
      ),
      800,
      550,
    );
    for (const side of ['left', 'right']) {
      const tops = notes.filter((note) => note.side === side).map((note) => note.top);
      tops.forEach((top, k) => {
        expect(top).toBeGreaterThanOrEqual(0);
        expect(top).toBeLessThanOrEqual(500);
        if (k) expect(top - (tops[k - 1] ?? 0)).toBeGreaterThanOrEqual(50);
      });
    }
    expect(notes).toHaveLength(12);
  });

  it('keep the order of their places, so that leader lines do not cross', () => {
    const notes = placeNotes(
      places(
        8,
        (k) => (k % 2) * 400,
        (k) => 500 - k * 60,
      ),
      800,
      550,
    );
    for (const side of ['left', 'right']) {
      const ys = notes.filter((note) => note.side === side).map((note) => note.y);
      expect(ys).toEqual([...ys].sort((a, b) => a - b));
    }
  });

  it('leave a narrow chart to the figure', () => {
    expect(placeNotes([{ key: 1, x: 100, y: 100 }], 380, 420)).toEqual([]);
  });

  it('are left out when neither margin has room', () => {
    expect(
      placeNotes(
        places(
          100,
          (k) => k,
          (k) => k * 5,
        ),
        800,
        550,
      ),
    ).toHaveLength(20);
    expect(placeNotes([], 800, 550)).toEqual([]);
  });
});

describe('soundings', () => {
  const grid = (apart: number, seen: (k: number) => boolean = () => true) =>
    Array.from({ length: 400 }, (_, k) => ({
      key: k,
      x: (k % 20) * apart,
      y: Math.floor(k / 20) * apart,
      seen: seen(k),
    }));

  it('give way to those before them, and fill in as one comes nearer', () => {
    const far = thinnedOut(grid(10), 800, 550, 25, 1000);
    expect(far[0]?.key).toBe(0);
    far.forEach((a, k) =>
      far.slice(k + 1).forEach((b) => expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeGreaterThanOrEqual(25)),
    );
    // Three times as near, a part of the figure holds what the whole held before, and more between.
    const near = thinnedOut(grid(30), 800, 550, 25, 1000);
    const within = near.filter(({ key }) => key % 20 < 10 && key < 200).length;
    expect(within).toBeGreaterThan(far.filter(({ key }) => key % 20 < 10 && key < 200).length * 3);
  });

  it('are left out where they are hidden or beside the chart, and no more than it bears', () => {
    const kept = thinnedOut(
      grid(30, (k) => k % 2 === 0),
      300,
      550,
      25,
      12,
    );
    expect(kept).toHaveLength(12);
    expect(kept.every(({ key, x }) => key % 2 === 0 && x <= 300)).toBe(true);
  });
});
