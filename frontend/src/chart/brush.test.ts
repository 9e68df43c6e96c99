// @vitest-environment jsdom
import { BufferAttribute, BufferGeometry } from 'three';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import { Brush, type BrushState } from './brush';
import { copyOf, readDisplayMesh } from './displayMesh';

class Socket extends EventTarget {
  static last: Socket;
  sent: string[] = [];
  binaryType = '';
  constructor(readonly url: string) {
    super();
    Socket.last = this;
  }
  send(text: string) {
    this.sent.push(text);
  }
  close() {
    this.dispatchEvent(new Event('close'));
  }
  hear(data: string | ArrayBuffer) {
    this.dispatchEvent(new MessageEvent('message', { data }));
  }
}

/** A square of two triangles, as the server sends it. */
function square() {
  const bytes = new ArrayBuffer(12 + 4 * 16 + 2 * 12);
  new Uint8Array(bytes).set(new TextEncoder().encode('ULD1'));
  const head = new DataView(bytes);
  head.setUint32(4, 4, true);
  head.setUint32(8, 2, true);
  new Float32Array(bytes, 12, 12).set([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]);
  new Float32Array(bytes, 60, 4).fill(2);
  new Uint32Array(bytes, 76, 6).set([0, 1, 2, 0, 2, 3]);
  return readDisplayMesh(bytes);
}

/** What moves vertex 2 up by one and leaves a wall of 0.5 there. */
function followed() {
  const bytes = new ArrayBuffer(8 + 32);
  new Uint8Array(bytes).set(new TextEncoder().encode('ULT1'));
  new DataView(bytes).setUint32(4, 1, true);
  new Uint32Array(bytes, 8, 1).set([2]);
  new Float32Array(bytes, 12, 7).set([1, 1, 1, 0, 0, 1, 0.5]);
  return bytes;
}

const states: BrushState[] = [];
const touched = vi.fn();
const laid = (mesh = square()) =>
  new Brush({ figure: 3, build: 'k', part: 'figure' }, mesh, { state: (now) => states.push(now), touched });

beforeEach(() => vi.stubGlobal('WebSocket', Socket));
afterEach(() => {
  vi.unstubAllGlobals();
  vi.clearAllMocks();
  states.length = 0;
});

describe('a brush', () => {
  it('says what it is for, then every place, and draws what it is answered on a mesh of its own', () => {
    const mesh = square();
    const brush = laid(mesh);
    Socket.last.dispatchEvent(new Event('open'));
    expect(JSON.parse(Socket.last.sent[0] ?? '')).toEqual({ build: 'k', part: 'figure', edition: '' });
    brush.begin({ kind: 'stroke' }, { point: [0, 0, 0] });
    // A stroke that is begun too early waits for the server, and is not lost to it.
    expect(Socket.last.sent).toHaveLength(1);
    expect(brush.atWork).toBe(false);
    Socket.last.hear('{"ready": true}');
    expect(brush.atWork).toBe(true);
    expect(JSON.parse(Socket.last.sent[1] ?? '')).toEqual({
      stroke: { kind: 'stroke', places: [{ point: [0, 0, 0] }] },
    });
    Socket.last.hear(followed());
    expect(brush.worked.geometry.getAttribute('position').getZ(2)).toBe(1);
    expect(brush.worked.walls[2]).toBe(0.5);
    expect(mesh.geometry.getAttribute('position').getZ(2)).toBe(0);
    expect(mesh.walls[2]).toBe(2);
    expect(touched).toHaveBeenCalledWith(new Uint32Array([2]), 0.5);
    brush.end();
    expect(JSON.parse(Socket.last.sent[2] ?? '')).toEqual({ end: true });
  });

  it('falls back to strokes applied afterwards, with the reason, when it is refused or cut off', () => {
    const brush = laid();
    Socket.last.hear('{"error": "The part has 9,000,000 triangles."}');
    expect(states.at(-1)).toEqual({ at: 'afterwards', why: 'The part has 9,000,000 triangles.' });
    brush.place({});
    brush.end();
    expect(Socket.last.sent).toEqual([]);
    laid();
    Socket.last.hear('{"ready": true}');
    Socket.last.close();
    expect(states.at(-1)?.at).toBe('afterwards');
  });

  it('says nothing any more once it is put down', () => {
    const brush = laid();
    const before = states.length;
    brush.close();
    expect(states).toHaveLength(before);
  });
});

it('copies what can be moved and shares nothing', () => {
  const mesh = square();
  const copy = copyOf(mesh);
  copy.geometry.getAttribute('position').setXYZ(0, 9, 9, 9);
  copy.walls[0] = 0;
  expect(mesh.geometry.getAttribute('position').getX(0)).toBe(0);
  expect(mesh.walls[0]).toBe(2);
  expect(copy.geometry).toBeInstanceOf(BufferGeometry);
  expect(copy.geometry.getAttribute('wall')).toBeInstanceOf(BufferAttribute);
});
