import { DETAIL_TINTS } from '../../chart/levels';
import type { StationFolder } from '../station';
import { Gauged, GaugeNow, MeantLevel, SandingOf, UseOf } from './Gauged';

/** Gauge: what the figure goes through, what breaks first, where it is thin, how it stands, and its detail. */
export const station: StationFolder = {
  id: 'gauge',
  Report: GaugeNow,
  More: Gauged,
  acts: ({ page, part, tinting, setTinting }) => [
    {
      name: 'Say what it goes through',
      costs: 'other limits for limbs',
      key: 'g',
      fields: (sheet) => <UseOf {...sheet} />,
    },
    {
      name: 'Say what sanding takes off',
      costs: page.edition.sanding ? `${page.edition.sanding} mm a side now` : 'nothing now',
      fields: (sheet) => <SandingOf {...sheet} />,
    },
    {
      name: 'Say which face is meant to be level',
      costs: 'one pick',
      key: 'l',
      fields: (sheet) => <MeantLevel {...sheet} />,
    },
    ...(part?.detail_display
      ? [
          {
            name: tinting === 'detail' ? 'Tint the walls again' : 'Tint the detail that is lost',
            costs: 'on the chart only',
            key: 'd',
            does: () => setTinting(tinting === 'detail' ? 'walls' : 'detail'),
          },
        ]
      : []),
  ],
  chart: {
    walls: true,
    turns: true,
    instead: ({ tinting, part }) =>
      tinting === 'detail' && part?.detail_display
        ? { tints: DETAIL_TINTS, display: part.detail_display }
        : undefined,
  },
};
