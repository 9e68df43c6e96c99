import type { StationFolder } from '../station';
import { Layers } from './Layers';

/** Layers: what each layer will do. */
export const station: StationFolder = {
  id: 'layers',
  Report: () => <h2>What the printer will see</h2>,
  More: Layers,
  chart: { inPrinter: true },
};
