import type { StationFolder } from '../station';
import { NamedInIt, Pack, Releases } from './Release';

/** Release: what would go out, what is open, and the files. */
export const station: StationFolder = {
  id: 'release',
  Report: Releases,
  More: NamedInIt,
  acts: ({ page }) => [
    {
      name: 'Pack a release',
      costs: 'STL, 3MF, sheet, manifest',
      key: 'r',
      fields: (sheet) => <Pack {...sheet} />,
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
