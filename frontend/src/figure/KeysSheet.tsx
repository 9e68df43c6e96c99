import Dialog from '@mui/material/Dialog';

const KEYS: [keys: string[], does: string][] = [
  [['J', 'K'], 'next finding, and back'],
  [['T'], 'the tools of the station, after its findings'],
  [['[', ']'], 'another remedy of the finding'],
  [[',', '.'], 'place before and after, where a finding has several'],
  [['B'], 'all remedies tried beside each other'],
  [['P'], 'see the remedy first, in drawing and chart'],
  [['A'], 'apply it'],
  [['U', 'Shift U'], 'undo, redo; Ctrl Z too'],
  [['X'], 'drawing and chart change their sizes'],
  [['1 – 9'], 'stations, as they stand on the line'],
  [['N'], 'night chart, day chart'],
  [['←', '→', '↑', '↓'], 'turn the figure, while the chart has the focus'],
  [['/'], 'do anything by its name; Ctrl K too'],
  [['?'], 'this sheet'],
];

/** Every key of the figure page. Each has a control on the page that does the same. */
export function KeysSheet({ open, close }: { open: boolean; close: () => void }) {
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
        <button className="ruled" onClick={close}>
          Close
        </button>
      </div>
    </Dialog>
  );
}
