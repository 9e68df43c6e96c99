import type { StationFolder } from '../station';
import { BeginSet, GoesOutAct } from './GoesOutAct';
import { IssueAct } from './IssueAct';
import { NamedInIt, PackAlone } from './Release';
import { ReportAct } from './ReportAct';
import { Sets } from './Sets';
import { ShopsAct } from './ShopsAct';
import { WordsAct } from './WordsAct';

/** Release: what goes out to whom, in which shops it lies, what buyers report, and who needs a correction. */
export const station: StationFolder = {
  id: 'release',
  Report: Sets,
  More: NamedInIt,
  acts: ({ page }) => [
    {
      name: 'Say what goes out',
      costs: 'editions, forms, packs for whom',
      key: 'g',
      fields: (sheet) => <GoesOutAct {...sheet} />,
    },
    {
      name: 'Say a word to buyers',
      costs: 'on what is open, and in the guide',
      key: 'w',
      fields: (sheet) => <WordsAct {...sheet} />,
    },
    {
      name: 'Pack an issue',
      costs: 'files, guide, manifest; who needs it',
      key: 'r',
      stays: true,
      fields: (sheet) => <IssueAct {...sheet} />,
    },
    {
      name: 'Offer it in shops',
      costs: 'a list to fill from, ticked when done',
      key: 's',
      stays: true,
      fields: (sheet) => <ShopsAct {...sheet} />,
    },
    {
      name: 'Take in what buyers report',
      costs: 'joined, answered, corrected',
      key: 'c',
      stays: true,
      fields: (sheet) => <ReportAct {...sheet} />,
    },
    {
      name: 'Begin another set',
      costs: 'with the edition that is looked at',
      fields: (sheet) => <BeginSet {...sheet} />,
    },
    {
      name: 'Pack this edition alone',
      costs: 'STL, 3MF, sheet, manifest',
      fields: (sheet) => <PackAlone {...sheet} />,
      stays: true,
    },
    {
      name: 'Take the walls in their tints',
      costs: 'OBJ with texture, for your own work',
      does: () => window.location.assign(`/api/figures/${page.id}/walls.zip?edition=${page.looked}`),
    },
  ],
  chart: { walls: true },
};
