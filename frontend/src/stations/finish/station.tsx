import type { StationFolder } from '../station';
import { Colours, WorkCautions } from './Colours';
import { CopyAct } from './CopyAct';
import { DecalAct } from './DecalAct';
import { colourTints, drawnInColour } from './plan';
import { RegionAct } from './RegionAct';
import { SchemeAct } from './SchemeAct';
import { StackAct } from './StackAct';

/** Finish: colours that can be made again, and the order of work from the wash to the last coat. */
export const station: StationFolder = {
  id: 'finish',
  Report: Colours,
  More: WorkCautions,
  acts: () => [
    {
      name: 'Colour a region',
      costs: 'touched, grown to its edges',
      key: 'g',
      stays: true,
      fields: (sheet) => <RegionAct {...sheet} />,
    },
    {
      name: 'Say what it is painted with',
      costs: 'coats, and mixes in drops',
      key: 'w',
      stays: true,
      fields: (sheet) => <StackAct {...sheet} />,
    },
    {
      name: 'Put on a decal',
      costs: 'its place and size; whether it lies flat',
      key: 'd',
      stays: true,
      fields: (sheet) => <DecalAct {...sheet} />,
    },
    {
      name: 'Try another scheme',
      costs: 'colours, school, brush',
      key: 's',
      stays: true,
      fields: (sheet) => <SchemeAct {...sheet} />,
    },
    {
      name: 'Tick off the work on a copy',
      costs: 'minutes beside those told',
      key: 'c',
      stays: true,
      fields: (sheet) => <CopyAct {...sheet} />,
    },
  ],
  chart: {
    others: true,
    always: true,
    othersDrawn: drawnInColour,
    instead: ({ build, part }) => {
      const tints = colourTints(build, new URLSearchParams(window.location.search).get('scheme'));
      return tints && part ? { tints, display: part.colour_display ?? part.display } : undefined;
    },
  },
};
