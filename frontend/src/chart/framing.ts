import { Ray, Vector3, type BufferGeometry, type OrthographicCamera } from 'three';
import type { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';

import type { Outline, Pick } from '../figure/picking';
import type { DisplayMesh } from './displayMesh';
import { pickUnder } from './pointing';
import { axesOf } from './turning';

interface Projected {
  x: number;
  y: number;
  /** Whether the figure does not hide the point, looked at when it is asked. */
  readonly seen: boolean;
}

type Vector = readonly [number, number, number];

/** The view drawn last. */
export interface View {
  /** Where a figure point lies on the chart; with its normal, seen only from its outside. */
  project: (point: Vector, normal?: Vector) => Projected;
  /** What a line of chart places goes round, in figure mm. */
  outline: (line: readonly (readonly [number, number])[]) => Outline;
  /** The skin under a chart place. */
  pick: (x: number, y: number) => Pick | null;
  /** Has it drawn anew, where its vertices have moved. */
  redraw: () => void;
}

const MARGINS = 350;
/** The corners of what is shown, along side, back and up. */
interface Bounds {
  low: Vector3;
  high: Vector3;
}

/** How something was looked at last. */
export interface Framed {
  bounds: Bounds;
  up: Vector3;
  size: { width: number; height: number };
  target: Vector3;
}

const ALIKE = 0.05;

export function alike(before: Framed, { low, high }: Bounds, up: Vector3, size: Framed['size']): boolean {
  const reach = high.distanceTo(low);
  return (
    before.up.angleTo(up) < 1e-6 &&
    before.size.width === size.width &&
    before.size.height === size.height &&
    before.bounds.low.distanceTo(low) < ALIKE * reach &&
    before.bounds.high.distanceTo(high) < ALIKE * reach
  );
}

export function boundsOf(shown: BufferGeometry[], upwards: Vector3): Bounds {
  const [side, back, up] = axesOf(upwards);
  const low = new Vector3(Infinity, Infinity, Infinity);
  const high = low.clone().negate();
  const at = new Vector3();
  for (const geometry of shown) {
    const positions = geometry.getAttribute('position');
    for (let k = 0; k < positions.count; k++) {
      at.fromBufferAttribute(positions, k);
      at.set(at.dot(side), at.dot(back), at.dot(up));
      low.min(at);
      high.max(at);
    }
  }
  return { low, high };
}

export function frame(
  camera: OrthographicCamera,
  controls: OrbitControls,
  { low, high }: Bounds,
  width: number,
  height: number,
): void {
  const [side, back, up] = axesOf(camera.up);
  const centre = low.clone().add(high).multiplyScalar(0.5);
  const middle = new Vector3()
    .addScaledVector(side, centre.x)
    .addScaledVector(back, centre.y)
    .addScaledVector(up, centre.z);
  const extent = high.clone().sub(low);
  const reach = extent.length();
  const slant = Math.hypot(extent.x, extent.y);
  const toward = new Vector3()
    .addScaledVector(side, -0.72)
    .addScaledVector(back, -1)
    .addScaledVector(up, 0.28)
    .normalize();
  camera.position.copy(middle).addScaledVector(toward, reach * 2);
  // Margins are kept free for the notes.
  camera.zoom = Math.min(
    (height * 0.93) / (extent.z * 0.98 + slant * 0.22),
    Math.max(width - MARGINS, width * 0.3) / Math.max(slant, 1e-6),
  );
  camera.near = reach * 0.1;
  camera.far = reach * 4;
  camera.left = -width / 2;
  camera.right = width / 2;
  camera.top = height / 2;
  camera.bottom = -height / 2;
  camera.updateProjectionMatrix();
  controls.target.copy(middle);
  controls.update();
}

export function orbit(camera: OrthographicCamera, controls: OrbitControls, across: number, up: number): void {
  const arm = camera.position.clone().sub(controls.target);
  arm.applyAxisAngle(camera.up, (-across * Math.PI) / 180);
  const side = new Vector3().crossVectors(camera.up, arm).normalize();
  const tilted = arm.clone().applyAxisAngle(side, (-up * Math.PI) / 180);
  const tooSteep = tilted.angleTo(camera.up) < 0.05 || tilted.angleTo(camera.up) > Math.PI - 0.05;
  camera.position.copy(controls.target).add(tooSteep ? arm : tilted);
}

export function viewOf(
  camera: OrthographicCamera,
  mesh: DisplayMesh,
  width: number,
  height: number,
  redraw: () => void,
): View {
  const reach = mesh.geometry.boundingSphere?.radius ?? 1;
  const project: View['project'] = (point, normal) => {
    camera.updateMatrixWorld();
    const place = new Vector3(...point);
    const toward = camera.getWorldDirection(new Vector3()).negate();
    const flat = place.clone().project(camera);
    const start = place.clone().addScaledVector(toward, reach * 0.004);
    const facing = !normal || toward.dot(new Vector3(...normal)) > 0.15;
    return {
      x: ((flat.x + 1) / 2) * width,
      y: ((1 - flat.y) / 2) * height,
      get seen() {
        return facing && mesh.bvh.raycastFirst(new Ray(start, toward), 2) === null;
      },
    };
  };
  const outline: View['outline'] = (line) => {
    camera.updateMatrixWorld();
    const across = new Vector3().setFromMatrixColumn(camera.matrixWorld, 0).normalize();
    const up = new Vector3().setFromMatrixColumn(camera.matrixWorld, 1).normalize();
    return {
      view: camera.getWorldDirection(new Vector3()).negate().toArray(),
      across: across.toArray(),
      outline: line.map(([x, y]) => {
        const place = new Vector3((x / width) * 2 - 1, 1 - (y / height) * 2, 0).unproject(camera);
        return [place.dot(across), place.dot(up)];
      }),
    };
  };
  const pick: View['pick'] = (x, y) => pickUnder(camera, mesh, (x / width) * 2 - 1, 1 - (y / height) * 2);
  return { project, outline, pick, redraw };
}
