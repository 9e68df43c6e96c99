import { BufferAttribute, BufferGeometry } from 'three';
import { MeshBVH } from 'three-mesh-bvh';

import type { Sounding } from '../app/client';

const HEAD_BYTES = 12;

/** The server's display mesh as a geometry in figure mm, with the wall at every vertex. */
export interface DisplayMesh {
  geometry: BufferGeometry;
  walls: Float32Array;
  bvh: MeshBVH;
  /** Whether it is coarse enough that its facets should be seen as such. */
  faceted: boolean;
}

const FACETED_BELOW = 12_000;
/** Cosine of 38 degrees: what bends more is a fold, as for the core's facets. */
const FOLDED = 0.788;

/** Reads the bytes the server made: "ULD1", counts, positions, walls, corners. Throws on anything else. */
export function readDisplayMesh(bytes: ArrayBuffer): DisplayMesh {
  const head = new DataView(bytes);
  const magic = new TextDecoder().decode(new Uint8Array(bytes, 0, Math.min(4, bytes.byteLength)));
  if (magic !== 'ULD1') throw new Error('The figure’s drawing could not be read; reload the page.');
  const vertices = head.getUint32(4, true);
  const triangles = head.getUint32(8, true);
  if (bytes.byteLength !== HEAD_BYTES + vertices * 16 + triangles * 12) {
    throw new Error('The figure’s drawing came incomplete; reload the page.');
  }
  const positions = new Float32Array(bytes, HEAD_BYTES, vertices * 3);
  const walls = new Float32Array(bytes, HEAD_BYTES + vertices * 12, vertices);
  const corners = new Uint32Array(bytes, HEAD_BYTES + vertices * 16, triangles * 3);
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  geometry.setAttribute('wall', new BufferAttribute(walls, 1));
  geometry.setIndex(new BufferAttribute(corners, 1));
  geometry.computeVertexNormals();
  const normals = geometry.getAttribute('normal').array as Float32Array;
  geometry.setAttribute('fold', new BufferAttribute(foldsOf(positions, corners, normals), 1));
  geometry.computeBoundingBox();
  geometry.computeBoundingSphere();
  return {
    geometry,
    walls,
    bvh: new MeshBVH(geometry, { indirect: true }),
    faceted: triangles < FACETED_BELOW,
  };
}

/** By vertex, 1 where a face there looks another way than what lies about it, as at a fold or a tip; else 0. */
function foldsOf(positions: Float32Array, corners: Uint32Array, normals: Float32Array): Float32Array {
  const folds = new Float32Array(normals.length / 3);
  const at = (k: number, axis: number) => positions[3 * (corners[k] ?? 0) + axis] ?? 0;
  for (let k = 0; k < corners.length; k += 3) {
    const [ux, uy, uz] = [at(k + 1, 0) - at(k, 0), at(k + 1, 1) - at(k, 1), at(k + 1, 2) - at(k, 2)];
    const [vx, vy, vz] = [at(k + 2, 0) - at(k, 0), at(k + 2, 1) - at(k, 1), at(k + 2, 2) - at(k, 2)];
    const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    const least = FOLDED * Math.hypot(x, y, z);
    for (let j = k; j < k + 3; j += 1) {
      const v = corners[j] ?? 0;
      const along = x * (normals[3 * v] ?? 0) + y * (normals[3 * v + 1] ?? 0) + z * (normals[3 * v + 2] ?? 0);
      if (along < least) folds[v] = 1;
    }
  }
  return folds;
}

const SOUNDING = 7;

/** Reads walls at points of the surface: for each its point, its normal and its wall. */
export function readSoundings(bytes: ArrayBuffer): Sounding[] {
  const numbers = new Float32Array(bytes);
  const three = (k: number): [number, number, number] => [
    numbers[k] ?? 0,
    numbers[k + 1] ?? 0,
    numbers[k + 2] ?? 0,
  ];
  return Array.from({ length: Math.floor(numbers.length / SOUNDING) }, (_, k) => ({
    point: three(SOUNDING * k),
    normal: three(SOUNDING * k + 3),
    wall: numbers[SOUNDING * k + 6] ?? 0,
  }));
}

/** A mesh of its own with the same vertices, to be worked on. */
export function copyOf({ geometry, walls, faceted }: DisplayMesh): DisplayMesh {
  const copy = geometry.clone();
  const own = new Float32Array(walls);
  copy.setAttribute('wall', new BufferAttribute(own, 1));
  return { geometry: copy, walls: own, bvh: new MeshBVH(copy, { indirect: true }), faceted };
}

/** What a brush moved: drawn vertices, where they are and look (three numbers each), and the wall under each. */
export interface Followed {
  vertices: Uint32Array;
  points: Float32Array;
  normals: Float32Array;
  walls: Float32Array;
}

/** Reads the bytes of one place of a stroke: "ULT1", count, vertices, positions, normals, walls. */
export function readFollowed(bytes: ArrayBuffer): Followed {
  const count = new DataView(bytes).getUint32(4, true);
  const at = (numbers: number) => 8 + 4 * numbers;
  return {
    vertices: new Uint32Array(bytes, at(0), count),
    points: new Float32Array(bytes, at(count), 3 * count),
    normals: new Float32Array(bytes, at(4 * count), 3 * count),
    walls: new Float32Array(bytes, at(7 * count), count),
  };
}

/** Moves the vertices of a mesh that a brush moved; the tree of its faces follows when the stroke ends. */
export function draw({ geometry, walls }: DisplayMesh, moved: Followed): void {
  const position = geometry.getAttribute('position');
  const normal = geometry.getAttribute('normal');
  moved.vertices.forEach((vertex, k) => {
    position.array.set(moved.points.subarray(3 * k, 3 * k + 3), 3 * vertex);
    normal.array.set(moved.normals.subarray(3 * k, 3 * k + 3), 3 * vertex);
    walls.set(moved.walls.subarray(k, k + 1), vertex);
  });
  for (const attribute of [position, normal, geometry.getAttribute('wall')]) attribute.needsUpdate = true;
}

export async function fetchDisplayMesh(name: string): Promise<DisplayMesh> {
  return readDisplayMesh(await fetchBlob(name));
}

export async function fetchSoundings(name: string): Promise<Sounding[]> {
  return readSoundings(await fetchBlob(name));
}

async function fetchBlob(name: string): Promise<ArrayBuffer> {
  const answer = await fetch(`/api/blobs/${name}`);
  if (!answer.ok) throw new Error('The figure’s drawing is missing; check the figure again.');
  return answer.arrayBuffer();
}
