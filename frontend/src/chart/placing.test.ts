import { describe, expect, it } from 'vitest';

import { placeNotes, spread } from './placing';

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
  it('give way to those before them', () => {
    const kept = spread(
      places(
        50,
        (k) => (k % 10) * 10,
        (k) => Math.floor(k / 10) * 10,
      ),
      25,
    );
    expect(kept[0]?.key).toBe(0);
    kept.forEach((a, k) =>
      kept.slice(k + 1).forEach((b) => expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeGreaterThanOrEqual(25)),
    );
    expect(kept.length).toBeGreaterThan(4);
  });
});
