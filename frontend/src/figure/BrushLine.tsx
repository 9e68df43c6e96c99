import type { Setup } from '../app/client';
import { mm } from '../app/units';
import type { BrushSays } from '../chart/useBrush';

/** What is under the brush: the thinnest wall, and the open walls there as they change. */
export function BrushLine({ says, setup }: { says: BrushSays; setup: Setup | undefined }) {
  const { state, least, idle, following } = says;
  if (state.at === 'laying out') return 'The brush is being laid out. ';
  if (state.at === 'afterwards') return `${state.why} `;
  if (idle) return 'Nothing moved there: its triangles are larger than the brush. Even them out first. ';
  if (least === null) return null;
  return (
    <>
      Thinnest under it <b>{mm(least)} mm</b>
      {setup &&
        `, ${setup.material.name.toLowerCase()} wants ${mm(setup.setting.walls.free_standing.caution)}`}
      {following.map(({ title, before, now, limit }) => (
        <span key={title}>
          {'; '}
          {title.toLowerCase()}: {mm(before)} to <b>{mm(now)} mm</b> of {mm(limit)}
        </span>
      ))}
      .{' '}
    </>
  );
}
