import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import { BufferGeometry, OrthographicCamera, Quaternion, Ray, Vector3, type Intersection } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';

import type { ChartColours } from '../app/theme';
import type { DisplayMesh } from './displayMesh';
import { outlineMaterial, surfaceMaterial, type Levels } from './materials';

export interface Projected {
  x: number;
  y: number;
  /** Whether the figure does not hide the point. */
  seen: boolean;
}

/** Projects figure points onto the chart, at the view drawn last. */
export type Project = (
  point: readonly [number, number, number],
  normal?: readonly [number, number, number],
) => Projected;

const MARGINS = 350;

interface Props {
  mesh: DisplayMesh;
  /** Walls in figure mm where the tints change; none leaves the stone bare. */
  levels: Levels | null;
  colours: ChartColours;
  moved: (project: Project) => void;
  pointed: (wall: number | null) => void;
  /** How it is shown; upright and alone when left out. */
  standing?: Standing;
  /** Hears which way the skin looks where the figure is clicked; none where a click means nothing. */
  picked?: (normal: [number, number, number]) => void;
}

/** A figure in the printer: which way is up, and what stands beside it, all in figure mm and axes. */
export interface Standing {
  up: readonly [number, number, number];
  supports: DisplayMesh | null;
  /** Corners of the plate, in order. */
  plate: readonly (readonly [number, number, number])[];
}

const UPRIGHT = [0, 0, 1] as const;

/** The figure itself: drawn on demand, turned with the mouse or the arrow keys. */
export function Stage({ mesh, levels, colours, moved, pointed, standing, picked }: Props) {
  const { camera, gl, size, invalidate } = useThree();
  const surface = useMemo(() => surfaceMaterial(levels, mesh.faceted, colours), [levels, mesh, colours]);
  const outline = useMemo(() => outlineMaterial(size.width, size.height, colours), [size, colours]);
  useEffect(() => {
    invalidate();
    return () => surface.dispose();
  }, [surface, invalidate]);
  useEffect(() => () => outline.dispose(), [outline]);

  useEffect(() => {
    const view = camera as OrthographicCamera;
    // The controls take over which way is up when they are made.
    view.up.set(...(standing?.up ?? UPRIGHT));
    const controls = new OrbitControls(view, gl.domElement);
    controls.enableDamping = false;
    const shown = [mesh.geometry, ...(standing?.supports ? [standing.supports.geometry] : [])];
    frame(view, controls, shown, size.width, size.height);
    const project = projector(view, mesh, size.width, size.height);
    const change = () => {
      invalidate();
      moved(project);
    };
    controls.addEventListener('change', change);
    change();
    const turn = (event: KeyboardEvent) => {
      if (document.activeElement !== gl.domElement) return;
      const steps: Record<string, [number, number]> = {
        ArrowLeft: [-15, 0],
        ArrowRight: [15, 0],
        ArrowUp: [0, 15],
        ArrowDown: [0, -15],
      };
      const step = steps[event.key];
      if (!step) return;
      event.preventDefault();
      orbit(view, controls, step[0], step[1]);
      controls.update();
      change();
    };
    window.addEventListener('keydown', turn);
    return () => {
      window.removeEventListener('keydown', turn);
      controls.dispose();
    };
  }, [camera, gl, mesh, size, invalidate, moved, standing]);

  useEffect(() => {
    const element = gl.domElement;
    element.setAttribute('tabindex', '0');
    element.setAttribute('role', 'img');
    element.setAttribute(
      'aria-label',
      'The figure. Arrow keys turn it, plus and minus bring it nearer or farther.',
    );
    const point = (event: PointerEvent) => {
      if (event.buttons) return;
      const at = element.getBoundingClientRect();
      const x = ((event.clientX - at.left) / at.width) * 2 - 1;
      const y = 1 - ((event.clientY - at.top) / at.height) * 2;
      pointed(wallUnder(camera as OrthographicCamera, mesh, x, y));
    };
    const leave = () => pointed(null);
    const pressed = { x: 0, y: 0 };
    const press = (event: PointerEvent) => Object.assign(pressed, { x: event.clientX, y: event.clientY });
    const click = (event: MouseEvent) => {
      // A drag turns the figure and picks nothing.
      if (!picked || Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) > 4) return;
      const at = element.getBoundingClientRect();
      const x = ((event.clientX - at.left) / at.width) * 2 - 1;
      const y = 1 - ((event.clientY - at.top) / at.height) * 2;
      const normal = normalUnder(camera as OrthographicCamera, mesh, x, y);
      if (normal) picked(normal);
    };
    element.toggleAttribute('data-picking', !!picked);
    element.addEventListener('pointerdown', press);
    element.addEventListener('click', click);
    element.addEventListener('pointermove', point);
    element.addEventListener('pointerleave', leave);
    return () => {
      element.removeEventListener('pointermove', point);
      element.removeEventListener('pointerleave', leave);
      element.removeEventListener('pointerdown', press);
      element.removeEventListener('click', click);
    };
  }, [camera, gl, mesh, pointed, picked]);

  const supports = standing?.supports;
  const wash = useMemo(() => surfaceMaterial(null, true, { ...colours, stone: colours.paper }), [colours]);
  useEffect(() => () => wash.dispose(), [wash]);
  const plate = useMemo(
    () => new BufferGeometry().setFromPoints((standing?.plate ?? []).map((corner) => new Vector3(...corner))),
    [standing],
  );
  useEffect(() => () => plate.dispose(), [plate]);

  return (
    <>
      <mesh geometry={mesh.geometry} material={outline} />
      <mesh geometry={mesh.geometry} material={surface} />
      {supports && (
        <>
          <mesh geometry={supports.geometry} material={outline} />
          <mesh geometry={supports.geometry} material={wash} />
        </>
      )}
      {standing && (
        <lineLoop geometry={plate}>
          <lineBasicMaterial color={colours.ink} />
        </lineLoop>
      )}
    </>
  );
}

function frame(
  camera: OrthographicCamera,
  controls: OrbitControls,
  shown: BufferGeometry[],
  width: number,
  height: number,
): void {
  const [side, back, up] = axesOf(camera.up);
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
  const centre = low.clone().add(high).multiplyScalar(0.5);
  const middle = new Vector3()
    .addScaledVector(side, centre.x)
    .addScaledVector(back, centre.y)
    .addScaledVector(up, centre.z);
  const extent = high.sub(low);
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

/** Side, back and up of a figure that stands with `up` upwards, turned there by the shortest way. */
function axesOf(up: Vector3): [Vector3, Vector3, Vector3] {
  const shortest = new Quaternion().setFromUnitVectors(new Vector3(0, 0, 1), up.clone().normalize());
  return [
    new Vector3(1, 0, 0).applyQuaternion(shortest),
    new Vector3(0, 1, 0).applyQuaternion(shortest),
    new Vector3(0, 0, 1).applyQuaternion(shortest),
  ];
}

function orbit(camera: OrthographicCamera, controls: OrbitControls, across: number, up: number): void {
  const arm = camera.position.clone().sub(controls.target);
  arm.applyAxisAngle(camera.up, (-across * Math.PI) / 180);
  const side = new Vector3().crossVectors(camera.up, arm).normalize();
  const tilted = arm.clone().applyAxisAngle(side, (-up * Math.PI) / 180);
  const tooSteep = tilted.angleTo(camera.up) < 0.05 || tilted.angleTo(camera.up) > Math.PI - 0.05;
  camera.position.copy(controls.target).add(tooSteep ? arm : tilted);
}

function projector(camera: OrthographicCamera, mesh: DisplayMesh, width: number, height: number): Project {
  const reach = mesh.geometry.boundingSphere?.radius ?? 1;
  return (point, normal) => {
    camera.updateMatrixWorld();
    const place = new Vector3(...point);
    const toward = camera.getWorldDirection(new Vector3()).negate();
    const flat = place.clone().project(camera);
    const start = place.clone().addScaledVector(toward, reach * 0.004);
    const facing = !normal || toward.dot(new Vector3(...normal)) > 0.15;
    const seen = facing && mesh.bvh.raycastFirst(new Ray(start, toward), 2) === null;
    return { x: ((flat.x + 1) / 2) * width, y: ((1 - flat.y) / 2) * height, seen };
  };
}

function under(camera: OrthographicCamera, mesh: DisplayMesh, x: number, y: number): Intersection | null {
  const origin = new Vector3(x, y, -1).unproject(camera);
  return mesh.bvh.raycastFirst(new Ray(origin, camera.getWorldDirection(new Vector3())), 2);
}

function wallUnder(camera: OrthographicCamera, mesh: DisplayMesh, x: number, y: number): number | null {
  const hit = under(camera, mesh, x, y);
  if (!hit?.face) return null;
  const wall = Math.min(
    ...[hit.face.a, hit.face.b, hit.face.c].map((corner) => mesh.walls[corner] ?? Infinity),
  );
  return wall < 1e5 ? wall : null;
}

/** Which way the skin looks under a place, smoothed over its face; turned towards whoever points. */
function normalUnder(
  camera: OrthographicCamera,
  mesh: DisplayMesh,
  x: number,
  y: number,
): [number, number, number] | null {
  const hit = under(camera, mesh, x, y);
  if (!hit?.face) return null;
  const normals = mesh.geometry.getAttribute('normal');
  const normal = [hit.face.a, hit.face.b, hit.face.c]
    .reduce((sum, corner) => sum.add(new Vector3().fromBufferAttribute(normals, corner)), new Vector3())
    .normalize();
  if (normal.dot(camera.getWorldDirection(new Vector3())) > 0) normal.negate();
  return normal.toArray();
}
