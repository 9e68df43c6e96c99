import { useQuery } from '@tanstack/react-query';

import { fetchDisplayMesh, type DisplayMesh } from './displayMesh';

const NO_MESHES: DisplayMesh[] = [];
/** How long a mesh that is not drawn is kept. */
export const KEPT_MS = 60_000;

/** A display mesh by the name of its blob; none while it comes, or for no name. */
export function useDisplay(name: string | null): DisplayMesh | null {
  const { data } = useQuery({
    queryKey: ['display', name],
    queryFn: () => fetchDisplayMesh(name ?? ''),
    enabled: name !== null,
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
  return (name !== null && data) || null;
}

/** Display meshes by the names of their blobs; none while one of them comes. */
export function useDisplays(names: string[]): DisplayMesh[] {
  const { data } = useQuery({
    queryKey: ['displays', names],
    queryFn: () => Promise.all(names.map((name) => fetchDisplayMesh(name))),
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
  return data ?? NO_MESHES;
}
