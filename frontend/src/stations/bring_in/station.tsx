import { stepsOf } from '../../app/steps';
import { capturedTints } from '../../chart/levels';
import type { Sheet } from '../../figure/sheet';
import type { StationAct, StationFolder } from '../station';
import { AddForm } from './AddForm';
import { Captured } from './Captured';
import { Credit, Depict, Offer } from './Credit';
import { JoinParts } from './JoinParts';
import { Groups, groupsOf, Placed, standings } from './Placed';
import { References } from './References';
import { Even, Rims, TrueSize, Upright } from './Scan';
import { Files, NewSculpt, Sources, ThinOut } from './Sources';
import { StampTools } from './StampTools';
import { StrokeTools } from './StrokeTools';
import { broughtIn, Terms } from './Terms';
import { Trimming } from './Trimming';
import { Variants } from './Variants';

/** Bring in: what the figure is made of, whose that is, and how it comes together. */
export const station: StationFolder = {
  id: 'bring-in',
  Report: Sources,
  More: ({ build, acts, page, part }) => (
    <>
      {part?.captured && <Captured captured={part.captured} factor={part.facts.factor} />}
      <Terms build={build} acts={acts} />
      <h3>Files</h3>
      <Files page={page} />
    </>
  ),
  acts: (sheet) => [...making(sheet), ...cleaning(sheet), ...saying(sheet)],
  chart: {
    grounded: true,
    ghosts: true,
    others: true,
    references: true,
    instead: ({ part }) =>
      part?.captured
        ? {
            tints: capturedTints(part.captured.reach * part.facts.factor),
            display: part.captured_display,
          }
        : undefined,
  },
};

function making({ build, page, open }: Sheet): StationAct[] {
  const group = 'Put together';
  const several = build.parts.length > 1;
  const acts: StationAct[] = [
    {
      group,
      name: 'Add a first form',
      costs: 'a part of its own, or part of it',
      key: 'f',
      fields: (sheet) => <AddForm {...sheet} />,
    },
    {
      group,
      name: 'Add a bit of the shelf',
      costs: 'its terms come with it',
      does: () => open(`/bits?figure=${page.id}`),
    },
  ];
  if (standings(build).length)
    acts.push({
      group,
      name: 'Move, turn or grow a bit or form',
      costs: 'what sits on it goes with it',
      key: 'm',
      fields: (sheet) => <Placed {...sheet} />,
      stays: true,
    });
  if (groupsOf(build).length)
    acts.push({
      group,
      name: 'Switch or move a group',
      costs: 'all in it, at once',
      fields: (sheet) => <Groups {...sheet} />,
      stays: true,
    });
  if (several)
    acts.push({
      group,
      name: 'Join two parts',
      costs: 'one name is left',
      key: 'g',
      fields: (sheet) => <JoinParts {...sheet} />,
    });
  return [
    ...acts,
    {
      group,
      name: 'Press a picture or text into it',
      costs: 'strokes raised or sunk',
      fields: (sheet) => <StampTools {...sheet} number={sheet.page.id} />,
    },
    {
      group,
      name: 'Touch up its surface with a brush',
      costs: 'one sentence a stroke',
      key: 's',
      fields: (sheet) => <StrokeTools {...sheet} number={sheet.page.id} />,
      stays: true,
    },
    {
      group,
      name: 'Keep a picture to work from',
      costs: 'is never printed',
      fields: (sheet) => <References {...sheet} />,
      stays: true,
    },
    {
      group,
      name: 'Make another pose, head or hand',
      costs: 'a variant',
      fields: (sheet) => <Variants {...sheet} />,
      stays: true,
    },
  ];
}

function cleaning({ part }: Sheet): StationAct[] {
  const group = 'Clean up';
  return [
    {
      group,
      name: 'Bring in a new sculpt',
      costs: 'all else stays',
      fields: (sheet) => <NewSculpt {...sheet} />,
    },
    {
      group,
      name: 'Thin out its triangles',
      costs: 'detail finer than you say',
      fields: (sheet) => <ThinOut {...sheet} />,
    },
    ...(part
      ? [
          {
            group,
            name: 'Cut away what does not belong',
            costs: 'leaves a rim to close',
            fields: (sheet: Sheet) => <Trimming {...sheet} part={part} />,
          },
        ]
      : []),
    {
      group,
      name: 'Set it upright by three places',
      costs: 'turns all of it',
      fields: (sheet) => <Upright {...sheet} />,
    },
    {
      group,
      name: 'Give it its true size by calipers',
      costs: 'grows all of it',
      fields: (sheet) => <TrueSize {...sheet} />,
    },
    {
      group,
      name: 'Smooth its open rims',
      costs: 'ragged edges of a scan',
      fields: (sheet) => <Rims {...sheet} />,
    },
    {
      group,
      name: 'Even its triangles',
      costs: 'same surface, other mesh',
      fields: (sheet) => <Even {...sheet} />,
    },
  ];
}

function saying({ build }: Sheet): StationAct[] {
  const group = 'Say whose it is';
  const credits = stepsOf(build, 'credit');
  return [
    ...broughtIn(build).map(({ source, file }) => ({
      group,
      name: `Say whose ${file} is`,
      costs: credits.some((credit) => credit.source === source) ? 'said, can be changed' : 'not said yet',
      fields: (sheet: Sheet) => <Credit {...sheet} source={source} file={file} />,
    })),
    {
      group,
      name: 'Say what it depicts',
      costs: 'others may have a say',
      fields: (sheet) => <Depict {...sheet} />,
    },
    {
      group,
      name: 'Say how it is to go out',
      costs: stepsOf(build, 'offer').length ? 'said, can be changed' : 'not said yet',
      fields: (sheet) => <Offer {...sheet} />,
      stays: true,
    },
  ];
}
