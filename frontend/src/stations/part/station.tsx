import { scopeOf } from '../hollow/hollow';
import type { StationFolder } from '../station';
import { Joinery, PartedNow } from './Joinery';
import { KeepAct } from './KeepAct';
import { BoxesAct, CutAct, KeyAct, NameAct } from './PartActs';

/** Part: cuts, keys, and how it goes together. */
export const station: StationFolder = {
  id: 'part',
  Report: PartedNow,
  More: Joinery,
  acts: ({ build, part, acts, busy, pulled, setPulled }) => {
    const joints = build.assembly.joints ?? [];
    return [
      {
        name: 'Cut it by a plane',
        costs: 'level, upright, or square to a limb',
        key: 'c',
        fields: (sheet) => <CutAct {...sheet} />,
      },
      ...(joints.length
        ? [
            {
              name: 'Set keys into a joint',
              costs: 'peg, pin or magnets',
              key: 'y',
              fields: (sheet: Parameters<typeof KeyAct>[0]) => <KeyAct {...sheet} />,
            },
            {
              name: 'Sink numbers into the joints',
              costs: 'on both faces, 0.3 mm deep',
              key: 'r',
              does: () => !busy && acts.addStep('joints numbered', { kind: 'number-parts' }),
            },
            {
              name: pulled ? 'Put the figure together' : 'Pull the figure apart',
              costs: 'on the chart',
              key: 'o',
              does: () => setPulled(pulled ? 0 : 1),
            },
          ]
        : []),
      {
        name: 'Cut it by boxes of a printer',
        costs: 'as many parts as it takes',
        key: 'g',
        fields: (sheet) => <BoxesAct {...sheet} />,
      },
      {
        name: 'Keep a place in one piece',
        costs: 'a cut through it is told',
        key: 'w',
        fields: (sheet) => <KeepAct {...sheet} />,
      },
      ...((part?.facts.shells ?? 1) > 1
        ? [
            {
              name: 'Make every shell a part of its own',
              costs: `${part?.facts.shells} shells`,
              key: 's',
              does: () =>
                !busy &&
                part &&
                acts.addStep('shells taken apart', { kind: 'split-shells', scope: scopeOf(build, part) }),
            },
          ]
        : []),
      ...(build.parts.length > 1
        ? [
            {
              name: 'Name this part',
              costs: 'kept through every edit of the cut',
              key: 'm',
              fields: (sheet: Parameters<typeof NameAct>[0]) => <NameAct {...sheet} />,
            },
          ]
        : []),
    ];
  },
  chart: { turns: true, others: true, apart: true },
};
