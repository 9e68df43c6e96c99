/** Keys that do one thing, and a word for it. */
export interface RowKey {
  keys: string[];
  says: string;
  act: () => void;
  off?: boolean;
  /** Of what stays as it was set. */
  pressed?: boolean;
}

/** The keys that matter now, each a control that does the same. */
export function KeyRow({ keys }: { keys: RowKey[] }) {
  return (
    <div className="keys">
      {keys.map(({ keys: names, says, act, off, pressed }) => (
        <button key={names.join('')} className="plain" disabled={off} aria-pressed={pressed} onClick={act}>
          {names.map((name) => (
            <kbd key={name}>{name}</kbd>
          ))}{' '}
          {says}
        </button>
      ))}
    </div>
  );
}
