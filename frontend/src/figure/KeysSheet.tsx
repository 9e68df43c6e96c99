import Dialog from '@mui/material/Dialog';

import type { Station } from '../app/client';
import { STATION_NAMES } from '../stations/names';
import type { StationAct } from '../stations/station';

const KEYS: [keys: string[], does: string][] = [
  [['J', 'K'], 'next finding, and back'],
  [['T'], 'what can be done at the station, beside its findings'],
  [['Esc'], 'leave what was begun: a pick, an act'],
  [['[', ']'], 'another remedy of the finding'],
  [[',', '.'], 'place before and after, where a finding has several'],
  [['B'], 'all remedies tried beside each other'],
  [['P'], 'see it first, in drawing and chart'],
  [['A'], 'do it'],
  [['U', 'Shift U'], 'undo, redo; Ctrl Z too'],
  [['X'], 'drawing and chart change their sizes'],
  [['1 – 9'], 'stations, as they stand on the line'],
  [['N'], 'night chart, day chart'],
  [['←', '→', '↑', '↓'], 'turn the figure, while the chart has the focus'],
  [['/'], 'do anything by its name; Ctrl K too'],
  [['E'], 'the editions it is made for'],
  [['?'], 'this sheet'],
];

/** Every key of the figure page. Each has a control on the page that does the same. */
export function KeysSheet({
  open,
  close,
  acts,
  here,
}: {
  open: boolean;
  close: () => void;
  /** What can be done at the station, some of it with keys of its own. */
  acts: StationAct[];
  here: Station;
}) {
  const own = acts.filter((act) => act.key);
  return (
    <Dialog open={open} onClose={close} aria-labelledby="keys-title">
      <div className="keys-sheet">
        <h2 id="keys-title">Keys</h2>
        <dl>
          {KEYS.map(([keys, does]) => (
            <div key={does}>
              <dt>
                {keys.map((key) => (
                  <kbd key={key}>{key}</kbd>
                ))}
              </dt>
              <dd>{does}</dd>
            </div>
          ))}
        </dl>
        {own.length > 0 && (
          <>
            <h3>At {STATION_NAMES[here]}</h3>
            <dl>
              {own.map(({ key = '', name }) => (
                <div key={name}>
                  <dt>
                    <kbd>{key.toUpperCase()}</kbd>
                  </dt>
                  <dd>{name}</dd>
                </div>
              ))}
            </dl>
          </>
        )}
        <button className="ruled" onClick={close}>
          Close
        </button>
      </div>
    </Dialog>
  );
}
