import type { StationFolder } from '../station';
import { BeginAct } from './BeginAct';
import { CameAct } from './CameAct';
import { LearntAct } from './LearntAct';
import { LengthAct } from './LengthAct';
import { PinAct } from './PinAct';
import { PrinterAct } from './PrinterAct';
import { Proofs } from './Proofs';
import { ReviewAct } from './ReviewAct';

/** Proof: test prints of the very files, what went wrong in them, and what that teaches. */
export const station: StationFolder = {
  id: 'proof',
  Report: Proofs,
  acts: ({ busy }) => [
    {
      name: 'Begin a proof',
      costs: 'of the files as they are now',
      key: 'g',
      fields: (sheet) => <BeginAct {...sheet} busy={busy} />,
    },
    {
      name: 'Print it on a printer here',
      costs: 'sent, followed, entered when it is done',
      key: 's',
      stays: true,
      fields: (sheet) => <PrinterAct {...sheet} />,
    },
    {
      name: 'Pin what went wrong',
      costs: 'where, when, and what it was',
      key: 'w',
      fields: (sheet) => <PinAct {...sheet} />,
    },
    {
      name: 'Say how it came out',
      costs: 'copies, hours, material, scars',
      key: 'c',
      fields: (sheet) => <CameAct {...sheet} />,
    },
    {
      name: 'Enter a length by calipers',
      costs: 'beside the one that is drawn',
      key: 'm',
      fields: (sheet) => <LengthAct {...sheet} />,
    },
    {
      name: 'Ask a second pair of eyes',
      costs: 'one page to send, answers taken in',
      key: 'y',
      stays: true,
      fields: (sheet) => <ReviewAct {...sheet} />,
    },
    {
      name: 'See what the bench can learn',
      costs: 'from proofs and coupons',
      key: 'l',
      fields: (sheet) => <LearntAct {...sheet} />,
    },
  ],
};
