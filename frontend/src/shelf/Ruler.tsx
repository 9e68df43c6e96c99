/** The ruler that every figure on the shelf stands beside; lengths in mm. */
export function Ruler({ scale, length, step }: { scale: number; length: number; step: number }) {
  const marks = Array.from({ length: Math.floor(length / step) + 1 }, (_, k) => k * step);
  const height = length * scale;
  return (
    <div className="shelf-ruler">
      <svg
        width={58}
        height={height + 4}
        style={{ flex: 'none', overflow: 'visible' }}
        role="img"
        aria-label={`Ruler, ${length.toFixed(0)} mm`}
      >
        <line x1={50} x2={50} y1={4} y2={height + 4} stroke="var(--ink)" />
        {marks.map((mark, k) => (
          <g key={mark} transform={`translate(0 ${height + 4 - mark * scale})`}>
            {k % 2 === 0 && mark + step <= length && (
              <rect x={44} width={6} y={-step * scale} height={step * scale} fill="var(--ink)" />
            )}
            <line x1={38} x2={50} stroke="var(--ink)" />
            <text x={34} y={4} textAnchor="end" className="sounding" fontSize={14} fill="var(--ink)">
              {mark}
            </text>
          </g>
        ))}
      </svg>
      <div className="who soft">mm</div>
    </div>
  );
}
