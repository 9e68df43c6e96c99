import type { Sheet } from '../../figure/sheet';
import type { StationFolder } from '../station';
import { HollowAct, OpenHere, PocketAct, RegionAct } from './HollowActs';
import { HollowNow, Inside } from './Inside';
import { leavesSolid } from './hollow';
import { stepsOf } from '../../app/steps';

/** Hollow: spaces inside, how they drain, and what is set into pockets. */
export const station: StationFolder = {
  id: 'hollow',
  Report: HollowNow,
  More: Inside,
  acts: ({ build, part, acts, busy }) => {
    const hollowed = stepsOf(build, 'hollow').some((step) => step.on);
    const small =
      part?.spaces.filter((space) => !space.openings.length && space.millilitres <= SMALL_ML) ?? [];
    return [
      {
        name: hollowed ? 'Hollow it to another wall' : 'Hollow it',
        costs: 'a shell, opened at both ends',
        key: 'h',
        fields: (sheet) => <HollowAct {...sheet} />,
      },
      ...(hollowed
        ? [
            {
              name: 'Leave a region solid, or thicker',
              costs: 'one pick',
              key: 'r',
              fields: (sheet: Sheet) => <RegionAct {...sheet} />,
            },
          ]
        : [
            {
              name: 'Leave it solid',
              costs: 'nothing asks any more',
              key: 's',
              does: () => !busy && part && acts.addStep('left solid', leavesSolid(build, part)),
            },
          ]),
      {
        name: 'Drill an opening where I click',
        costs: 'into a space, or through a wall',
        key: 'o',
        fields: (sheet) => <OpenHere {...sheet} />,
      },
      ...(small.length
        ? [
            {
              name: `Fill ${small.length === 1 ? 'the small space' : `${small.length} small spaces`}`,
              costs: `${small.reduce((sum, one) => sum + one.millilitres, 0).toFixed(2)} ml`,
              does: () =>
                !busy && acts.addStep('small spaces filled', { kind: 'fill-spaces', most_ml: SMALL_ML }),
            },
          ]
        : []),
      {
        name: 'Make a pocket for a bought part',
        costs: 'magnet, rod or wire',
        key: 'm',
        fields: (sheet) => <PocketAct {...sheet} />,
      },
    ];
  },
  chart: { turns: true, inside: true },
};

/** Spaces under this are filled rather than opened, ml. */
const SMALL_ML = 0.05;
