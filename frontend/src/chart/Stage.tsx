import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import { Box3, OrthographicCamera, Ray, Vector3 } from 'three';
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
}

/** The figure itself: drawn on demand, turned with the mouse or the arrow keys. */
export function Stage({ mesh, levels, colours, moved, pointed }: Props) {
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
    const controls = new OrbitControls(view, gl.domElement);
    controls.enableDamping = false;
    const box = new Box3().copy(mesh.geometry.boundingBox as Box3);
    frame(view, controls, box, size.width, size.height);
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
  }, [camera, gl, mesh, size, invalidate, moved]);

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
    element.addEventListener('pointermove', point);
    element.addEventListener('pointerleave', leave);
    return () => {
      element.removeEventListener('pointermove', point);
      element.removeEventListener('pointerleave', leave);
    };
  }, [camera, gl, mesh, pointed]);

  return (
    <>
      <mesh geometry={mesh.geometry} material={outline} />
      <mesh geometry={mesh.geometry} material={surface} />
    </>
  );
}

function frame(
  camera: OrthographicCamera,
  controls: OrbitControls,
  box: Box3,
  width: number,
  height: number,
): void {
  const middle = box.getCenter(new Vector3());
  const extent = box.getSize(new Vector3());
  const reach = extent.length();
  const slant = Math.hypot(extent.x, extent.y);
  camera.up.set(0, 0, 1);
  camera.position.copy(middle).add(new Vector3(-0.72, -1, 0.28).normalize().multiplyScalar(reach * 2));
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

function wallUnder(camera: OrthographicCamera, mesh: DisplayMesh, x: number, y: number): number | null {
  const origin = new Vector3(x, y, -1).unproject(camera);
  const hit = mesh.bvh.raycastFirst(new Ray(origin, camera.getWorldDirection(new Vector3())), 2);
  const index = mesh.geometry.index;
  if (!hit?.face || !index) return null;
  const wall = Math.min(
    ...[hit.face.a, hit.face.b, hit.face.c].map((corner) => mesh.walls[corner] ?? Infinity),
  );
  return wall < 1e5 ? wall : null;
}
