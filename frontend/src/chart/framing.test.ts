import { OrthographicCamera, Vector3 } from 'three';
import type { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { describe, expect, it } from 'vitest';

import { readDisplayMesh, type DisplayMesh } from './displayMesh';
import { alike, boundsOf, frame, orbit, viewOf } from './framing';
import { edgesOf, layOut } from './overlay';

const UP = new Vector3(0, 0, 1);

/** A block from a corner to its opposite, with a wall at every corner. */
function block(low: number[], high: number[], wall = 1): DisplayMesh {
  const corners = Array.from({ length: 8 }, (_, k) =>
    [0, 1, 2].map((axis) => ((k >> axis) & 1 ? high : low)[axis]),
  );
  const faces = [
    [0, 2, 1, 1, 2, 3],
    [4, 5, 6, 5, 7, 6],
    [0, 1, 4, 1, 5, 4],
    [2, 6, 3, 3, 6, 7],
    [0, 4, 2, 2, 4, 6],
    [1, 3, 5, 3, 7, 5],
  ].flat();
  const values = [...corners.flat(), ...Array.from({ length: 8 }, () => wall)] as number[];
  const buffer = new ArrayBuffer(12 + 4 * (values.length + faces.length));
  new Uint8Array(buffer).set([...'ULD1'].map((letter) => letter.charCodeAt(0)));
  const view = new DataView(buffer);
  view.setUint32(4, 8, true);
  view.setUint32(8, faces.length / 3, true);
  values.forEach((value, k) => view.setFloat32(12 + 4 * k, value, true));
  faces.forEach((value, k) => view.setUint32(12 + 4 * (values.length + k), value, true));
  return readDisplayMesh(buffer);
}

/** A camera that frames a block, seen on a chart of that many pixels. */
function framed(mesh: DisplayMesh, width = 900, height = 600) {
  const camera = new OrthographicCamera();
  camera.up.copy(UP);
  let updated = 0;
  const controls = { target: new Vector3(), update: () => (updated += 1) } as unknown as OrbitControls;
  frame(camera, controls, boundsOf([mesh.geometry], UP), width, height);
  camera.lookAt(controls.target);
  camera.updateMatrixWorld();
  return {
    camera,
    controls,
    view: viewOf(camera, mesh, width, height, () => undefined),
    updated: () => updated,
  };
}

describe('the frame of what is shown', () => {
  it('holds every corner of all that is shown, along the axes it stands by', () => {
    const two = [block([0, 0, 0], [2, 4, 6]).geometry, block([-3, 1, 1], [1, 2, 9]).geometry];
    const { low, high } = boundsOf(two, UP);
    expect(low.toArray()).toEqual([-3, 0, 0]);
    expect(high.toArray()).toEqual([2, 4, 9]);
    // Lying on its side, what was deep is tall.
    const lying = boundsOf([block([0, 0, 0], [2, 4, 6]).geometry], new Vector3(0, 1, 0));
    expect(lying.high.z - lying.low.z).toBeCloseTo(4);
  });

  it.each([
    ['a tall figure', [10, 10, 80], 900, 600],
    ['a flat one', [80, 60, 4], 900, 600],
    ['a tiny one', [0.2, 0.1, 0.3], 900, 600],
    ['a figure on a narrow chart', [30, 30, 60], 420, 700],
  ])('shows the whole of %s', (_, high, width, height) => {
    const mesh = block([0, 0, 0], high);
    const { view, updated } = framed(mesh, width, height);
    expect(updated()).toBe(1);
    for (let k = 0; k < 8; k++) {
      const corner = [0, 1, 2].map((axis) => ((k >> axis) & 1 ? (high[axis] ?? 0) : 0)) as [
        number,
        number,
        number,
      ];
      const { x, y } = view.project(corner);
      expect(x).toBeGreaterThanOrEqual(0);
      expect(x).toBeLessThanOrEqual(width);
      expect(y).toBeGreaterThanOrEqual(0);
      expect(y).toBeLessThanOrEqual(height);
    }
  });

  it('stays as it is for what is nearly as large, and is drawn anew for another size or another way up', () => {
    const size = { width: 900, height: 600 };
    const bounds = boundsOf([block([0, 0, 0], [10, 10, 40]).geometry], UP);
    const before = { bounds, up: UP, size, target: new Vector3() };
    const grown = (by: number) => boundsOf([block([0, 0, 0], [10, 10, 40 + by]).geometry], UP);
    expect(alike(before, grown(1), UP, size)).toBe(true);
    expect(alike(before, grown(9), UP, size)).toBe(false);
    expect(alike(before, bounds, new Vector3(1, 0, 0), size)).toBe(false);
    expect(alike(before, bounds, UP, { width: 901, height: 600 })).toBe(false);
  });

  it('is turned about by keys, and never over the top', () => {
    const { camera, controls } = framed(block([0, 0, 0], [10, 10, 40]));
    const arm = () => camera.position.clone().sub(controls.target);
    const far = arm().length();
    const before = arm().setZ(0);
    orbit(camera, controls, 90, 0);
    expect(arm().length()).toBeCloseTo(far);
    expect(arm().setZ(0).angleTo(before)).toBeCloseTo(Math.PI / 2);
    for (let k = 0; k < 40; k++) orbit(camera, controls, 0, 15);
    expect(arm().angleTo(UP)).toBeGreaterThan(0.04);
    for (let k = 0; k < 40; k++) orbit(camera, controls, 0, -15);
    expect(arm().angleTo(UP)).toBeLessThan(Math.PI - 0.04);
  });
});

describe('the view', () => {
  const mesh = block([0, 0, 0], [10, 10, 40], 0.7);

  it('knows which places the figure hides, and picks what lies in front', () => {
    const { view } = framed(mesh);
    expect(view.project([5, 0, 20], [0, -1, 0]).seen).toBe(true);
    expect(view.project([5, 10, 20]).seen).toBe(false);
    // A side that looks away is not seen, whatever lies before it.
    expect(view.project([5, 0, 20], [0, 1, 0]).seen).toBe(false);
    const { x, y } = view.project([5, 0, 20]);
    const picked = view.pick(x, y);
    expect(picked?.point.map((one) => Math.round(one))).toEqual([5, 0, 20]);
    expect(picked?.normal.map((one) => Math.round(one))).toEqual([0, -1, 0]);
    expect(view.pick(1, 1)).toBeNull();
  });

  it('takes what a line goes round back to the figure, whatever way it is looked from', () => {
    const { view } = framed(mesh);
    const corners = (
      [
        [0, 0, 0],
        [10, 0, 0],
        [10, 0, 40],
      ] as [number, number, number][]
    ).map((one) => view.project(one));
    const { outline, across, view: toward } = view.outline(corners.map(({ x, y }) => [x, y] as const));
    const side = new Vector3(...across);
    expect(side.dot(new Vector3(...toward))).toBeCloseTo(0);
    expect(outline[0]?.[0]).toBeCloseTo(0);
    expect(outline[1]?.[0]).toBeCloseTo(new Vector3(10, 0, 0).dot(side));
  });

  it('writes soundings at print size where they are seen, and a ring about the finding that is chosen', () => {
    const { view } = framed(mesh);
    const at = (x: number, y: number, z: number) => ({ point: [x, y, z] as [number, number, number] });
    const finding = (code: string, point: [number, number, number], over: object = {}) =>
      ({
        code,
        title: code,
        count: 1,
        where: { point, extent: 3.2 },
        measured: 0.4,
        limit: 0.6,
        ...over,
      }) as never;
    const findings = [
      { number: 4, finding: finding('thin-wall', [5, 0, 30]) },
      { number: 5, finding: finding('thin-wall', [5, 0, 10], { count: 7 }) },
      { number: 6, finding: finding('no-place', [0, 0, 0], { where: null }) },
    ];
    const sounded = [
      { ...at(5, 0, 20), normal: [0, -1, 0] as [number, number, number], wall: 0.7 },
      { ...at(5, 10, 20), normal: [0, 1, 0] as [number, number, number], wall: 0.9 },
    ];
    const said = layOut(view.project, sounded, 2, findings, 5, 900, 600);
    expect(said.soundings.map(({ wall }) => wall)).toEqual([1.4]);
    const says = (number: number) => said.notes.find(({ key }) => key === number)?.says;
    expect([says(4), says(5), says(6)]).toEqual(['3.2 mm long', '7 places', undefined]);
    const ring = view.project([5, 0, 10]);
    expect([said.ring?.x, said.ring?.y]).toEqual([ring.x, ring.y]);
    expect(layOut(view.project, [], 1, findings, null, 900, 600).ring).toBeNull();
  });

  it('keeps the finding that is chosen among the notes, however many come before it', () => {
    const { view } = framed(mesh);
    const many = Array.from({ length: 40 }, (_, k) => ({
      number: k,
      finding: {
        code: 'island',
        title: `island ${k}`,
        count: 1,
        where: { point: [5, 0, k] },
        measured: k,
        limit: 0,
      } as never,
    }));
    const keys = (chosen: number | null) =>
      layOut(view.project, [], 1, many, chosen, 900, 900).notes.map(({ key }) => key);
    expect(keys(null)).toHaveLength(16);
    expect(keys(33)).toContain(33);
    expect(keys(33)).toHaveLength(16);
  });

  it('draws a box by its edges', () => {
    const { view } = framed(mesh);
    const path = edgesOf(
      [
        [0, 0, 0],
        [10, 10, 40],
      ],
      view.project,
    );
    const { x, y } = view.project([0, 0, 0]);
    expect(path.match(/[ML]/g)?.length).toBeGreaterThanOrEqual(12);
    expect(path).toContain(x.toFixed(1).replace(/\.0$/, ''));
    expect(Number.isFinite(y)).toBe(true);
  });
});
