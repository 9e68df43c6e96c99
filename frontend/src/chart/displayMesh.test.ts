import { describe, expect, it } from 'vitest';

import { readDisplayMesh, readSoundings } from './displayMesh';

function bytes(vertices: number[], walls: number[], corners: number[]): ArrayBuffer {
  const buffer = new ArrayBuffer(12 + 4 * (vertices.length + walls.length + corners.length));
  new Uint8Array(buffer).set([...'ULD1'].map((letter) => letter.charCodeAt(0)));
  const view = new DataView(buffer);
  view.setUint32(4, walls.length, true);
  view.setUint32(8, corners.length / 3, true);
  [...vertices, ...walls].forEach((value, k) => view.setFloat32(12 + 4 * k, value, true));
  corners.forEach((value, k) => view.setUint32(12 + 4 * (vertices.length + walls.length + k), value, true));
  return buffer;
}

describe('the display mesh', () => {
  const whole = bytes([0, 0, 0, 2, 0, 0, 0, 2, 0], [0.5, 0.6, 1e6], [0, 1, 2]);

  it('is read with its walls and can be picked', () => {
    const mesh = readDisplayMesh(whole);
    expect(Array.from(mesh.walls)).toEqual([0.5, Math.fround(0.6), 1e6]);
    expect(mesh.geometry.boundingBox?.max.toArray()).toEqual([2, 2, 0]);
    expect(mesh.faceted).toBe(true);
  });

  it('knows its folds and not its gentle bends', () => {
    const bent = (up: number) =>
      readDisplayMesh(bytes([0, 0, 0, 2, 0, 0, 0, 2, 0, 2, 2, up], [1, 1, 1, 1], [0, 1, 2, 1, 3, 2]));
    expect(Array.from(bent(0.5).geometry.getAttribute('fold').array)).toEqual([0, 0, 0, 0]);
    expect(Array.from(bent(8).geometry.getAttribute('fold').array)).toEqual([0, 1, 1, 0]);
  });

  it('is refused when it is something else or came incomplete', () => {
    expect(() => readDisplayMesh(new TextEncoder().encode('<!doctype html>').buffer)).toThrow('reload');
    expect(() => readDisplayMesh(whole.slice(0, -4))).toThrow('incomplete');
    expect(() => readDisplayMesh(new ArrayBuffer(0))).toThrow('reload');
  });
});

describe('soundings', () => {
  it('are read with their points, the way the skin looks there, and their walls', () => {
    const bytes = new Float32Array([1, 2, 3, 0, 0, 1, 0.5, 4, 5, 6, 0, 1, 0, 2]).buffer;
    expect(readSoundings(bytes)).toEqual([
      { point: [1, 2, 3], normal: [0, 0, 1], wall: 0.5 },
      { point: [4, 5, 6], normal: [0, 1, 0], wall: 2 },
    ]);
    expect(readSoundings(new ArrayBuffer(0))).toEqual([]);
  });
});
