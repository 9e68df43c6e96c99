import type { Cause, Outcome, Pin, ProofView } from '../../app/client';

/** How a copy came out. */
export const OUTCOMES: Record<Outcome, string> = {
  sound: 'sound',
  usable: 'usable',
  failed: 'failed',
  spare: 'kept for pieces',
};

/** When something went wrong. */
export const WHENS: Record<Pin['when'], string> = {
  'on-plate': 'on the plate',
  'supports-off': 'supports came off',
  sanding: 'sanding',
  gluing: 'gluing',
  masking: 'masking',
  painting: 'painting',
  carried: 'carried about',
  'in-use': 'in use',
};

/** What it was, as it is asked. */
export const CAUSES: Record<Cause, string> = {
  'thin-part': 'thin part broke',
  'came-off-supports': 'came off its supports',
  island: 'began as an island',
  suction: 'suction',
  'did-not-stick': 'did not stick to the plate',
  'layers-parted': 'layers parted',
  'layer-shift': 'layers shifted',
  warp: 'warped, or a corner lifted',
  sag: 'sagged, dripped, sank in',
  'trapped-resin': 'resin trapped inside',
  clog: 'clogged or banded',
  'support-moved': 'a support moved',
  'joint-misfit': 'joint does not fit',
  hands: 'damaged by hand',
  unknown: 'not known yet',
};

const DECIDED = {
  reprint: 'print again',
  repair: 'mended by hand',
  redesign: 'recipe changed',
  leave: 'left as it is',
};

/** What was decided about a pin. */
export const decided = ({ decision }: Pin): string => (decision ? DECIDED[decision] : 'nothing decided yet');

/** What a proof says in one word. */
export function verdict(proof: ProofView): string {
  if (proof.failed) return 'failed';
  if (proof.held) return 'held';
  return 'not told yet';
}
