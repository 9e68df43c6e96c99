import { useEffect, useRef } from 'react';
import { Ray, Vector3, type Intersection, type OrthographicCamera } from 'three';

import type { Pick } from '../figure/picking';
import type { DisplayMesh } from './displayMesh';

const STEP = 8;
const AIMING: Record<string, [number, number]> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP],
};

interface Heard {
  pointed: (wall: number | null) => void;
  picked: ((pick: Pick) => void) | undefined;
  aimed: (at: { x: number; y: number } | null) => void;
}

/** Whether a key moves the cross that keys pick with, rather than the figure; with shift it turns the figure still. */
export function aims(event: KeyboardEvent, element: Element): boolean {
  return element.hasAttribute('data-picking') && !event.shiftKey;
}

/** The wall under the pointer, and places picked: by a click, or by the arrow keys and Enter. */
export function usePointing(
  camera: OrthographicCamera,
  element: HTMLCanvasElement,
  mesh: DisplayMesh,
  { pointed, picked, aimed }: Heard,
): void {
  // Outlives the effect: the focus that a press brings may draw the page anew before the click.
  const pressed = useRef({ x: 0, y: 0 });
  useEffect(() => {
    element.setAttribute('tabindex', '0');
    element.setAttribute('role', 'img');
    element.setAttribute(
      'aria-label',
      'The figure. Arrow keys turn it; while a place is asked for they move a cross, Enter picks there.',
    );
    const flat = (x: number, y: number) => {
      const { width, height } = element.getBoundingClientRect();
      return [(x / width) * 2 - 1, 1 - (y / height) * 2] as const;
    };
    const inside = (event: MouseEvent) => {
      const { left, top } = element.getBoundingClientRect();
      return flat(event.clientX - left, event.clientY - top);
    };
    const point = (event: PointerEvent) => {
      if (!event.buttons) pointed(wallUnder(camera, mesh, ...inside(event)));
    };
    const leave = () => pointed(null);
    const press = (event: PointerEvent) => (pressed.current = { x: event.clientX, y: event.clientY });
    const take = (x: number, y: number) => {
      const pick = pickUnder(camera, mesh, x, y);
      if (pick) picked?.(pick);
    };
    const click = (event: MouseEvent) => {
      // A drag turns the figure and picks nothing.
      const { x, y } = pressed.current;
      if (Math.hypot(event.clientX - x, event.clientY - y) <= 4) take(...inside(event));
    };
    element.toggleAttribute('data-picking', !!picked);
    element.addEventListener('pointerdown', press);
    element.addEventListener('click', click);
    element.addEventListener('pointermove', point);
    element.addEventListener('pointerleave', leave);
    const stopAiming = picked ? aim(element, aimed, (x, y) => take(...flat(x, y))) : undefined;
    return () => {
      stopAiming?.();
      element.removeEventListener('pointermove', point);
      element.removeEventListener('pointerleave', leave);
      element.removeEventListener('pointerdown', press);
      element.removeEventListener('click', click);
    };
  }, [camera, element, mesh, pointed, picked, aimed]);
}

/** Lets the keys move a cross over the chart while it has the focus; starts in the middle. */
function aim(
  element: HTMLCanvasElement,
  aimed: Heard['aimed'],
  take: (x: number, y: number) => void,
): () => void {
  const at = { x: element.clientWidth / 2, y: element.clientHeight / 2 };
  const show = () => aimed({ ...at });
  const hide = () => aimed(null);
  const press = (event: KeyboardEvent) => {
    const step = aims(event, element) ? AIMING[event.key] : undefined;
    if (step) {
      at.x = Math.min(element.clientWidth, Math.max(0, at.x + step[0]));
      at.y = Math.min(element.clientHeight, Math.max(0, at.y + step[1]));
      show();
    } else if (event.key === 'Enter') take(at.x, at.y);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  element.addEventListener('keydown', press);
  element.addEventListener('focus', show);
  element.addEventListener('blur', hide);
  if (document.activeElement === element) show();
  return () => {
    hide();
    element.removeEventListener('keydown', press);
    element.removeEventListener('focus', show);
    element.removeEventListener('blur', hide);
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

/** The place of the skin under a point of the chart and which way it looks, smoothed over its face unless the
 * figure is faceted; turned towards whoever points. */
export function pickUnder(camera: OrthographicCamera, mesh: DisplayMesh, x: number, y: number): Pick | null {
  const hit = under(camera, mesh, x, y);
  if (!hit?.face) return null;
  const { a, b, c } = hit.face;
  const normals = mesh.geometry.getAttribute('normal');
  const normal = mesh.faceted
    ? hit.face.normal.clone()
    : [a, b, c]
        .reduce((sum, corner) => sum.add(new Vector3().fromBufferAttribute(normals, corner)), new Vector3())
        .normalize();
  const view = camera.getWorldDirection(new Vector3()).negate();
  if (normal.dot(view) < 0) normal.negate();
  return { point: hit.point.toArray(), normal: normal.toArray(), view: view.toArray() };
}
