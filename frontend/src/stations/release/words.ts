import type { BuyerReport, ReleaseItem, ReleaseSetView } from '../../app/client';
import { mm } from '../../app/units';

type ItemView = ReleaseSetView['items'][number];

/** What proofs say of an item in a few words. */
export const PROOFED: Record<ItemView['state'], string> = {
  exact: 'proofed in exactly this form',
  another: 'proofed in another form',
  failed: 'printed so, and failed',
  running: 'being proofed',
  not: 'not proofed',
};

export const SUPPORTED: Record<ReleaseItem['supported'], string> = {
  both: 'with and without supports',
  with: 'with supports',
  without: 'without supports',
};

/** Kinds of files by one name. */
export const KINDS = { both: 'STL and 3MF', stl: 'STL', '3mf': '3MF' } as const;

/** An item in a few words: its figure and edition, how tall it is, and its form. */
export function itemSaid(item: ReleaseItem, view: ItemView | undefined): string {
  if (!view?.figure_name) return 'gone from the shelf';
  const tall = view.tall_mm === null ? '' : `, ${mm(view.tall_mm)} mm`;
  return `${view.figure_name}, ${view.edition_name}${tall}${item.mirrored ? ', mirrored' : ''}`;
}

type ListingView = ReleaseSetView['listings'][number];

/** What is not filled in at a shop, by name. */
export const openAt = (view: ListingView | undefined): string[] =>
  (view?.rows ?? []).filter(({ done }) => !done).map(({ what }) => what);

/** What of a pack is in its shop, which holds that issue, and what is to be done there. */
export function inShop(holds: number | null, view: ListingView | undefined): string {
  const open = openAt(view);
  if (view?.issue == null) return 'nothing was packed for it yet';
  if (open.length === 0) return `issue ${view.issue} is in place`;
  if (holds && holds < view.issue)
    return `issue ${holds} is to be replaced by ${view.issue}: ${open.join(', ')}`;
  return `to fill in: ${open.join(', ')}`;
}

export const ENDINGS = {
  answer: 'answered',
  correction: 'corrected',
  guide: 'a sentence in the guide',
} as const;

/** How a report ended. */
export const endingSaid = ({ ending }: BuyerReport): string =>
  ending
    ? `${ENDINGS[ending.kind]}${ending.issue ? ` in issue ${ending.issue}` : ''}: ${ending.says}`
    : 'nobody has answered yet';

/** Today, as the field for a day writes it. */
export const today = (): string => {
  const now = new Date();
  const two = (value: number) => String(value).padStart(2, '0');
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}`;
};
