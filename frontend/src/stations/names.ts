import type { Station } from '../app/client';

/** The stations in the order of the work, as the line writes them. */
export const STATION_NAMES: Record<Station, string> = {
  'bring-in': 'Bring in',
  size: 'Size',
  mend: 'Mend',
  gauge: 'Gauge',
  hollow: 'Hollow',
  part: 'Part',
  stand: 'Stand',
  layers: 'Layers',
  proof: 'Proof',
  release: 'Release',
  finish: 'Finish',
};

export const STATIONS = Object.keys(STATION_NAMES) as Station[];

export function isStation(text: string | undefined): text is Station {
  return text !== undefined && text in STATION_NAMES;
}
