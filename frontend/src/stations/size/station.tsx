import type { StationFolder } from '../station';
import { HeightOrFactor, OwnSettings, SettingAndForm, SizeNow } from './Edition';
import { ForeignThings, ThingsBeside } from './Foreign';
import { Measured, Measures } from './Measures';
import { SizeScale } from './SizeScale';
import { Ways } from './Ways';

/** Size: how tall, on what, of what, and what follows from it. */
export const station: StationFolder = {
  id: 'size',
  Report: SizeNow,
  More: (sheet) => (
    <>
      <SizeScale build={sheet.build} />
      <Measured {...sheet} />
      <ThingsBeside {...sheet} />
    </>
  ),
  acts: ({ page, open }) => [
    {
      name: 'Set its height or factor',
      costs: 'checked anew',
      key: 'h',
      fields: (sheet) => <HeightOrFactor {...sheet} />,
    },
    {
      name: 'Work a size out, with what follows',
      costs: 'nothing, until you take it',
      key: 'w',
      fields: (sheet) => <Ways key={page.id} {...sheet} />,
    },
    {
      name: 'Make it in another setting or form',
      costs: 'printer, solid or hollow, whole or in parts, mirrored',
      fields: (sheet) => <SettingAndForm {...sheet} />,
      stays: true,
    },
    {
      name: 'Give a part a setting of its own',
      costs: 'checked anew',
      fields: (sheet) => <OwnSettings {...sheet} />,
      stays: true,
    },
    {
      name: 'Measure on the figure',
      costs: 'is kept, and follows it',
      key: 'm',
      fields: (sheet) => <Measures {...sheet} />,
      stays: true,
    },
    {
      name: 'Lay a thing beside it',
      costs: 'is never printed',
      fields: (sheet) => <ForeignThings {...sheet} />,
    },
    {
      name: 'Line it up with others',
      costs: 'on screen and on paper',
      does: () => open(`/line-up?figures=${page.id}`),
    },
  ],
  chart: { walls: true, ghosts: true },
};
