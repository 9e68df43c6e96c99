import { stepsOf } from '../../app/steps';
import type { StationFolder } from '../station';
import { Contacts } from './Contacts';
import { HandActs } from './HandActs';
import { WaysAct } from './WaysAct';
import { HoldUpright, LeanBest, ShowSide, Stands } from './Stands';

/** Stand: how the figure lies in the printer, and what holds it. */
export const station: StationFolder = {
  id: 'stand',
  Report: Stands,
  More: Contacts,
  acts: ({ build, part, acts, busy }) => {
    const support = stepsOf(build, 'support').at(-1);
    return [
      {
        name: 'Say which side shows',
        costs: 'supports keep off it',
        key: 's',
        fields: (sheet) => <ShowSide {...sheet} />,
      },
      {
        name: 'Lean it the best way and hold it',
        costs: 'sought for some seconds',
        key: 'l',
        fields: (sheet) => <LeanBest {...sheet} />,
      },
      {
        name: 'Weigh ways to stand',
        costs: 'a few, beside each other',
        key: 'w',
        fields: (sheet) => <WaysAct {...sheet} />,
      },
      {
        name: 'Change supports by hand',
        costs: 'added, moved, taken away',
        key: 'c',
        fields: (sheet) => <HandActs {...sheet} />,
      },
      {
        name: 'Hold it upright',
        costs: 'scars on undersides',
        key: 'h',
        fields: (sheet) => <HoldUpright {...sheet} />,
      },
      ...(support && part?.facts.stance.contacts.length
        ? [
            {
              name: 'Take the supports away',
              costs: `saves ${part.facts.stance.support_ml.toFixed(1)} ml`,
              does: () => !busy && acts.switchStep(support.id, false),
            },
          ]
        : []),
    ];
  },
  chart: { inPrinter: true },
};
