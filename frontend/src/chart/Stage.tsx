import { useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef } from 'react';
import { BufferGeometry, DoubleSide, EdgesGeometry, OrthographicCamera, Ray, Vector3 } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';

import type { Finding } from '../app/client';
import type { ChartColours } from '../app/theme';
import type { Pick } from '../figure/picking';
import type { DisplayMesh } from './displayMesh';
import { GroundGrid } from './GroundGrid';
import { boxOf } from './handles';
import { outlineMaterial, surfaceMaterial, type Levels } from './materials';
import { ReferencePicture } from './ReferencePicture';
import type { Reference } from './references';
import { aims, usePointing } from './pointing';
import { Trouble } from './Trouble';
import { lookFrom } from './turning';
import { alike, boundsOf, frame, orbit, viewOf, type Framed, type View } from './framing';

/** Of the slope and the least step of depth that what was is moved back; a surface is by one of each. */
const BEHIND = 6;

interface Props {
  mesh: DisplayMesh;
  /** Walls in figure mm where the tints change; none leaves the stone bare. */
  levels: Levels | null;
  /** Colours of regions, where it is painted. */
  palette?: string[] | undefined;
  colours: ChartColours;
  moved: (view: View) => void;
  pointed: (wall: number | null) => void;
  /** How it is shown; upright and alone when left out. */
  standing?: Standing;
  /** Hears where the figure is clicked; none where a click means nothing. */
  picked?: (pick: Pick) => void;
  /** Hears where on the chart the keys would pick, null where they do not. */
  aimed: (at: { x: number; y: number } | null) => void;
  /** Foreign things beside the figure. */
  ghosts: DisplayMesh[];
  /** The figure's other parts, drawn in paper. */
  others: DisplayMesh[];
  /** Parts that a change would bring. */
  proposed: DisplayMesh[];
  /** The part as it is, where it is drawn as it would be. */
  before: DisplayMesh | null;
  /** A place that is turned to when it is come to, if it is not seen. */
  face: Finding['where'];
  /** Pictures to work from. */
  references: readonly Reference[];
  /** What the finding in focus is made of. */
  trouble: Finding['lines'];
  /** Whether what lies inside shows through the skin. */
  ghosted: boolean;
  /** The spaces inside, drawn where the skin has faded. */
  inside: DisplayMesh | null;
  /** Whether the ground is drawn that all of it stands on. */
  grounded: boolean;
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
export function Stage({
  mesh,
  levels,
  palette,
  colours,
  moved,
  pointed,
  standing,
  picked,
  aimed,
  ghosts,
  others,
  before,
  proposed,
  references,
  trouble,
  ghosted,
  inside,
  grounded,
  face,
}: Props) {
  const { camera, gl, size, invalidate } = useThree();
  const surface = useMemo(
    () => surfaceMaterial(levels, mesh.faceted, colours, ghosted, palette),
    [levels, mesh, colours, ghosted, palette],
  );
  const inked = useMemo(() => outlineMaterial(size.width, size.height, colours), [size, colours]);
  const dashed = useMemo(() => outlineMaterial(size.width, size.height, colours, true), [size, colours]);
  useEffect(() => {
    invalidate();
    return () => surface.dispose();
  }, [surface, invalidate]);
  useEffect(() => () => inked.dispose(), [inked]);
  useEffect(() => () => dashed.dispose(), [dashed]);
  const framed = useRef<Framed | null>(null);
  const held = useRef<{ controls: OrbitControls; change: () => void } | null>(null);

  useEffect(() => {
    const view = camera as OrthographicCamera;
    // The controls take over which way is up when they are made.
    view.up.set(...(standing?.up ?? UPRIGHT));
    const controls = new OrbitControls(view, gl.domElement);
    controls.enableDamping = false;
    const shown = [
      mesh.geometry,
      ...(standing?.supports ? [standing.supports.geometry] : []),
      ...ghosts.map((ghost) => ghost.geometry),
      ...[...others, ...proposed].map((other) => other.geometry),
    ];
    const bounds = boundsOf(shown, view.up);
    // What looks much the same keeps the view it was turned to.
    const before = framed.current;
    if (before && alike(before, bounds, view.up, size)) {
      controls.target.copy(before.target);
      controls.update();
    } else frame(view, controls, bounds, size.width, size.height);
    const drawn = viewOf(view, mesh, size.width, size.height, () => invalidate());
    const change = () => {
      invalidate();
      moved(drawn);
    };
    controls.addEventListener('change', change);
    change();
    held.current = { controls, change };
    const turn = (event: KeyboardEvent) => {
      if (document.activeElement !== gl.domElement || aims(event, gl.domElement)) return;
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
      framed.current = { bounds, up: view.up.clone(), size, target: controls.target.clone() };
      controls.dispose();
    };
  }, [camera, gl, mesh, size, invalidate, moved, standing, ghosts, others, proposed]);

  // Turned once a place is come to, and then left as whoever looks turns it.
  const faced = face && [...face.point, ...(face.normal ?? [])].join();
  const latest = useRef(face);
  useEffect(() => {
    latest.current = face;
  });
  useEffect(() => {
    const { current: place } = latest;
    const { current: hold } = held;
    if (faced === null || !place || !hold) return;
    const { controls, change } = hold;
    const now = camera.position.clone().sub(controls.target);
    const point = new Vector3(...place.point);
    const normal = place.normal ? new Vector3(...place.normal) : null;
    const reach = mesh.geometry.boundingSphere?.radius ?? 1;
    const clear = (way: Vector3) =>
      mesh.bvh.raycastFirst(new Ray(point.clone().addScaledVector(way, reach * 0.008), way), 2) === null;
    const away = now.length();
    const way = now.clone().normalize();
    if (clear(way) && (!normal || way.dot(normal) > 0.15)) return;
    const better = lookFrom(way, camera.up, normal, clear);
    if (!better) return;
    camera.position.copy(controls.target).addScaledVector(better, away);
    controls.update();
    change();
  }, [faced, camera, mesh]);

  usePointing(camera as OrthographicCamera, gl.domElement, mesh, { pointed, picked, aimed });

  const supports = standing?.supports;
  const wash = useMemo(() => surfaceMaterial(null, true, { ...colours, stone: colours.paper }), [colours]);
  useEffect(() => () => wash.dispose(), [wash]);
  const plate = useMemo(
    () => new BufferGeometry().setFromPoints((standing?.plate ?? []).map((corner) => new Vector3(...corner))),
    [standing],
  );
  useEffect(() => () => plate.dispose(), [plate]);
  const onGround = useMemo(() => [mesh, ...others], [mesh, others]);

  return (
    <>
      {!ghosted && <mesh geometry={mesh.geometry} material={before ? dashed : inked} />}
      <mesh geometry={mesh.geometry} material={surface} />
      {before && (
        <mesh geometry={before.geometry}>
          {/* Farther than a surface in the same place, so that only what differs is seen. */}
          <meshBasicMaterial
            color={colours.mark}
            transparent
            opacity={0.18}
            depthWrite={false}
            polygonOffset
            polygonOffsetFactor={BEHIND}
            polygonOffsetUnits={BEHIND}
          />
        </mesh>
      )}
      {trouble.length > 0 && <Trouble lines={trouble} colour={colours.mark} />}
      {supports && (
        <>
          <mesh geometry={supports.geometry} material={inked} />
          <mesh geometry={supports.geometry} material={wash} />
        </>
      )}
      {inside && (
        <>
          <mesh geometry={inside.geometry} material={inked} />
          <mesh geometry={inside.geometry} material={wash} />
        </>
      )}
      {others.map((other) => (
        <group key={other.geometry.uuid}>
          <mesh geometry={other.geometry} material={inked} />
          <mesh geometry={other.geometry} material={palette ? surface : wash} />
        </group>
      ))}
      {proposed.map((other) => (
        <group key={other.geometry.uuid}>
          <mesh geometry={other.geometry} material={dashed} />
          <mesh geometry={other.geometry} material={wash} />
        </group>
      ))}
      {references.map((reference, k) => (
        <ReferencePicture key={k} reference={reference} box={boxOf(mesh.geometry)} />
      ))}
      {ghosts.map((ghost) => (
        <Ghost key={ghost.geometry.uuid} ghost={ghost} colour={colours.ink} />
      ))}
      {grounded && <GroundGrid shown={onGround} colour={colours.soft} />}
      {standing && (
        <lineLoop geometry={plate}>
          <lineBasicMaterial color={colours.ink} />
        </lineLoop>
      )}
    </>
  );
}

/** A foreign thing: its edges in ink, its sides as thin as breath. */
function Ghost({ ghost, colour }: { ghost: DisplayMesh; colour: string }) {
  const edges = useMemo(() => new EdgesGeometry(ghost.geometry, 24), [ghost]);
  useEffect(() => () => edges.dispose(), [edges]);
  return (
    <>
      <mesh geometry={ghost.geometry}>
        <meshBasicMaterial color={colour} transparent opacity={0.1} depthWrite={false} side={DoubleSide} />
      </mesh>
      <lineSegments geometry={edges}>
        <lineBasicMaterial color={colour} transparent opacity={0.55} />
      </lineSegments>
    </>
  );
}
