import styles from './proof.module.css';

/** Something on a coupon: where it is and how large, mm. */
export interface Feature {
  name: string;
  kind: string;
  x: number;
  y: number;
  mm: number;
  gap: number;
  over: string;
}

/** Mm round what is drawn, and under it, where the numbers stand. */
const AROUND = 4;
const UNDER = 8;

/** A coupon seen from above, lettered and numbered as it is printed. What is chosen is ringed; where `choose` is given, its
 * holes, walls and pins are ticked by a touch. */
export function CouponPicture({
  kind,
  features,
  chosen,
  choose,
}: {
  kind: string;
  features: Feature[];
  chosen: (feature: Feature) => boolean;
  choose?: (feature: Feature) => void;
}) {
  if (!features.length) return null;
  const xs = features.flatMap(({ x, mm }) => [x - mm / 2, x + mm / 2]);
  const ys = features.flatMap(({ y, mm }) => [y - mm / 2, y + mm / 2]);
  const left = Math.min(...xs) - AROUND;
  const low = Math.min(...ys) - UNDER;
  const wide = Math.max(...xs) + AROUND - left;
  const deep = Math.max(...ys) + AROUND - low;
  const names = new Set<string>();
  return (
    <svg
      className={styles.coupon}
      viewBox={`${left} ${-(low + deep)} ${wide} ${deep}`}
      role="img"
      aria-label={`The coupon from above: ${kind}`}
    >
      {features.map((feature, k) => {
        const { x, y, mm, name } = feature;
        const ticked = choose && /hole|wall|pin/.test(feature.kind);
        // A number stands once over a column, a letter at every length.
        const labelled = kind === 'measure' || !names.has(name);
        names.add(name);
        return (
          <g
            key={k}
            data-chosen={chosen(feature) || undefined}
            onClick={ticked ? () => choose(feature) : undefined}
          >
            {/round|pin/.test(feature.kind) ? (
              <circle cx={x} cy={-y} r={Math.max(mm / 2, 0.6)} />
            ) : kind === 'measure' ? (
              <circle cx={x} cy={-y} r={1.6} className={styles.letter} />
            ) : feature.kind === 'wall' ? (
              <rect x={x - Math.max(mm, 0.4) / 2} y={-y - 4} width={Math.max(mm, 0.4)} height={8} />
            ) : (
              <rect x={x - mm / 2} y={-y - mm / 2} width={mm} height={mm} />
            )}
            {labelled && (
              <text x={x} y={kind === 'measure' ? -y + 0.9 : -y + Math.max(mm / 2, 4) + 2.6}>
                {name}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}
