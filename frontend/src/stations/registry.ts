import type { Station } from '../app/client';
import type { StationFolder } from './station';

const folders = import.meta.glob<{ station: StationFolder }>('./*/station.tsx', { eager: true });

const stations = new Map(Object.values(folders).map(({ station }) => [station.id, station]));

/** The folder of a station; none where it is not built. */
export function stationOf(id: Station): StationFolder | undefined {
  return stations.get(id);
}
