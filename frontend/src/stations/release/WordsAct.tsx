import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import type { Finding, ReleaseSetView } from '../../app/client';
import { Mark } from '../../app/Mark';
import { useKeys } from '../../app/useKeys';
import type { Sheet } from '../../figure/sheet';
import styles from './release.module.css';
import { useReleaseSets } from './useReleaseSets';

/** What buyers are told of what is open, finding by finding, and sentences of one's own for the guide. */
export function WordsAct(sheet: Pick<Sheet, 'page' | 'leaveAct'>) {
  const { chosen } = useReleaseSets(sheet.page);
  if (!chosen) return <p className="soft">Begin a set first.</p>;
  return <Words key={`${chosen.number} ${chosen.revision}`} set={chosen} {...sheet} />;
}

function Words({ set, page, leaveAct }: { set: ReleaseSetView } & Pick<Sheet, 'page' | 'leaveAct'>) {
  const releases = useReleaseSets(page);
  const open = new Map(set.items.flatMap(({ open }) => open).map((one) => [one.code, one]));
  const [words, setWords] = useState<Record<string, string>>(
    Object.fromEntries(set.release.words.map(({ code, says }) => [code, says])),
  );
  const [guide, setGuide] = useState(set.release.guide.map(({ says }) => says).join('\n'));
  const keep = () => {
    const reports = new Map(set.release.guide.map((one) => [one.says, one.report]));
    releases.enter(
      set,
      'words to buyers',
      {
        words: Object.entries(words)
          .map(([code, says]) => ({ code, says: says.trim() }))
          .filter(({ says }) => says),
        guide: guide
          .split('\n')
          .map((says) => says.trim())
          .filter(Boolean)
          .map((says) => ({ says, report: reports.get(says) ?? '' })),
      },
      leaveAct,
    );
  };
  useKeys({ a: keep });
  return (
    <>
      <ErrorLine says={releases.error} />
      {open.size === 0 && <p>Nothing is open on what goes out.</p>}
      <ul className={styles.rows}>
        {[...open.values()].map((one) => (
          <li key={one.code}>
            <p>
              <Mark severity={one.severity as Finding['severity']} /> {one.title}
              {one.count > 1 && <span className="soft"> and {one.count - 1} more of its kind</span>}
            </p>
            <TextField
              size="small"
              fullWidth
              label={`What buyers are told of “${one.code}”`}
              placeholder={one.title}
              value={words[one.code] ?? ''}
              slotProps={{ htmlInput: { maxLength: 400 } }}
              onChange={(event) => setWords({ ...words, [one.code]: event.target.value })}
            />
          </li>
        ))}
      </ul>
      <div className="fields">
        <TextField
          size="small"
          fullWidth
          multiline
          minRows={2}
          label="Your own sentences for the guide, one a line"
          value={guide}
          onChange={(event) => setGuide(event.target.value)}
        />
      </div>
      <div className="do-it">
        <button className="ruled" disabled={releases.busy} onClick={keep}>
          Keep the words
        </button>
      </div>
    </>
  );
}
