import type { Overlay } from './overlay';

/** The notes and soundings beside and on the figure. */
export function Margins({
  overlay,
  chosen,
  choose,
  frame,
  fine,
  aim,
}: {
  overlay: Overlay;
  chosen: number | null;
  choose: (number: number) => void;
  frame: React.RefObject<HTMLDivElement | null>;
  /** Whether soundings are told to a hundredth. */
  fine: boolean;
  /** Where the keys would pick. */
  aim: { x: number; y: number } | null;
}) {
  const width = frame.current?.clientWidth ?? 0;
  return (
    <div className="overlay">
      <svg width="100%" height="100%" aria-hidden>
        {overlay.soundings.map((sounding, k) => (
          <SoundingText key={k} {...sounding} fine={fine} />
        ))}
        {overlay.notes.map((note) => {
          const edge = note.side === 'left' ? 168 : width - 168;
          const elbow = note.side === 'left' ? edge + 34 : edge - 34;
          const level = note.top + 9;
          return (
            <polyline
              key={note.key}
              points={`${edge},${level} ${elbow},${level} ${note.x},${note.y}`}
              fill="none"
              stroke={note.key === chosen ? 'var(--mark)' : 'var(--ink)'}
              strokeWidth={note.key === chosen ? 1.2 : 0.7}
            />
          );
        })}
        {overlay.box && <path d={overlay.box} fill="none" stroke="var(--mark)" strokeDasharray="5 3" />}
        {aim && <path d={`M${aim.x - 12} ${aim.y}h24M${aim.x} ${aim.y - 12}v24`} stroke="var(--mark)" />}
        {overlay.picks.map(({ x, y }, k) => (
          <g key={k} transform={`translate(${x},${y})`} stroke="var(--mark)" fill="none" strokeWidth="1.6">
            <circle r="5" />
            <path d="M-9 0H9M0-9V9" />
          </g>
        ))}
        {overlay.ring && (
          <circle
            cx={overlay.ring.x}
            cy={overlay.ring.y}
            r={overlay.ring.radius}
            fill="none"
            stroke="var(--mark)"
            strokeWidth="2"
            strokeDasharray="2.5 3"
          />
        )}
      </svg>
      {overlay.notes.map((note) => (
        <button
          key={note.key}
          className={`plain ${note.side} ${note.key === chosen ? 'chosen' : ''} ${note.plain ? 'named' : ''}`}
          style={
            note.side === 'left'
              ? { left: 14, width: 148, top: note.top }
              : { right: 14, width: 148, top: note.top }
          }
          onClick={() => choose(note.key)}
        >
          <b>{note.title}</b>
          <span className="soft">{note.says}</span>
        </button>
      ))}
    </div>
  );
}

/** A sounding as on a chart: whole millimetres, their parts small and low. */
function SoundingText({ x, y, wall, fine }: { x: number; y: number; wall: number; fine: boolean }) {
  const [whole, parts] = wall.toFixed(fine ? 2 : 1).split('.');
  return (
    <text x={x} y={y} className="sounding" fontSize={16} textAnchor="middle" fill="var(--ink)">
      {whole}
      <tspan fontSize={11} dy={4}>
        {parts}
      </tspan>
    </text>
  );
}
