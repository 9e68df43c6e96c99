import TextField from '@mui/material/TextField';
import { useState } from 'react';

import type { FigurePage } from '../../app/client';
import { count } from '../../app/units';
import type { FigureActs } from '../../figure/useFigure';
import styles from './variants.module.css';

/** Variants of the figure: other poses, heads or hands that share its record but for single steps. */
export function Variants({ page, acts }: { page: FigurePage; acts: FigureActs }) {
  const [name, setName] = useState('');
  const wanted = name.trim();
  const taken = page.variants.includes(wanted);
  const { variants, variant, differing } = page;
  return (
    <>
      <p className="soft">
        Another pose, head or hand, from the same record. What you change while a variant is shown is of it
        alone; what you change in the figure itself holds for every variant that does not say otherwise.
      </p>
      {variants.length > 0 && (
        <ul className={styles.variants} aria-label="Variants of this figure">
          {['', ...variants].map((one) => (
            <li key={one}>
              <button
                className="plain"
                aria-pressed={one === variant}
                disabled={acts.busy}
                onClick={() => one !== variant && acts.showVariant(one)}
              >
                {one === variant ? called(one) : <u>{called(one)}</u>}
              </button>
              {one === variant && (
                <span className="soft">{one ? `is shown, ${differs(differing.length)}` : 'is shown'}</span>
              )}
              {one && one === variant && (
                <button className="plain" disabled={acts.busy} onClick={() => acts.removeVariant(one)}>
                  <u>take it out</u>
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      <form
        className="fields two"
        onSubmit={(event) => {
          event.preventDefault();
          if (!wanted || taken || acts.busy) return;
          acts.addVariant(wanted);
          setName('');
        }}
      >
        <TextField
          size="small"
          label="Name of a new variant"
          value={name}
          error={taken}
          helperText={taken ? 'There is one of that name.' : undefined}
          onChange={(event) => setName(event.target.value.slice(0, 60))}
        />
        <button className="ruled" type="submit" disabled={!wanted || taken || acts.busy}>
          Add and show it
        </button>
      </form>
    </>
  );
}

function differs(sentences: number): string {
  return sentences ? `differing in ${count(sentences, 'sentence')}` : 'and does not differ yet';
}

function called(variant: string): string {
  return variant || 'The figure itself';
}
