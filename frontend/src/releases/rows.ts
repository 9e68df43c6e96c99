import type { ReleaseSetView } from '../app/client';
import { inShop, openAt } from '../stations/release/words';

/** A pack of a set in a shop, or offered nowhere. */
export interface OutRow {
  key: string;
  set: ReleaseSetView;
  tier: string;
  shop: string | null;
  says: string;
  todo: boolean;
  buyers: number | null;
}

/** Every pack of every set with each shop that offers it; those with something to do come first. */
export function outRows(sets: ReleaseSetView[]): OutRow[] {
  const rows = sets.flatMap((set) => set.release.tiers.flatMap(({ name }) => ofTier(set, name)));
  return [...rows.filter(({ todo }) => todo), ...rows.filter(({ todo }) => !todo)];
}

function ofTier(set: ReleaseSetView, tier: string): OutRow[] {
  const newest = set.issues.find(({ packs }) => packs.some((pack) => pack.tier === tier));
  const offered = set.release.listings.flatMap((listing, k) => {
    if (listing.tier !== tier) return [];
    const view = set.listings[k];
    return [
      {
        ...{ set, tier, shop: listing.shop, key: `${set.number} ${tier} ${listing.shop}` },
        says: inShop(listing.holds ?? null, view),
        todo: view?.issue != null && openAt(view).length > 0,
        buyers: listing.buyers,
      },
    ];
  });
  if (offered.length > 0) return offered;
  const says = newest ? `issue ${newest.number} is packed` : 'nothing was packed yet';
  return [{ set, tier, shop: null, key: `${set.number} ${tier}`, says, todo: false, buyers: null }];
}

/** Things that buyers report and nobody has answered. */
export const unanswered = (set: ReleaseSetView): number =>
  set.joined.filter(({ open }) => open.length > 0).length;
