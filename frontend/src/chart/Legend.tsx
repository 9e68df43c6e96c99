import { useLight } from '../app/light';
import { CHARTS } from '../app/theme';
import type { Tints } from './levels';

/** What the tints of the chart mean. */
export function Legend({ tints: { title, rows, palette } }: { tints: Tints }) {
  const { shoals, stone, inks } = CHARTS[useLight()];
  const colours = [...shoals, stone];
  if (palette)
    return (
      <div className="legend">
        <span>{title}</span>
        {rows.map((row, k) => (
          <div key={row} className="role">
            <i style={{ background: palette.rows[k] }} aria-hidden="true" />
            {row}
          </div>
        ))}
      </div>
    );
  return (
    <div className="legend">
      <span>{title}</span>
      {rows.map((row, k) => (
        <div key={row} style={{ background: colours[k], color: inks[k] }}>
          {row}
        </div>
      ))}
    </div>
  );
}
