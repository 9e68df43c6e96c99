import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { useKeys } from '../../app/useKeys';
import type { Sheet } from '../../figure/sheet';
import { NumberField, numberIn } from '../Fields';
import { useScheme } from './Colours';
import { OtherFigure } from './OtherFigure';
import { changePlan, planOf } from './plan';

/** Begins a scheme from the one that is looked at, says which is meant, and how the figure is painted. */
export function SchemeAct({ build, acts, busy, page }: Pick<Sheet, 'build' | 'acts' | 'busy' | 'page'>) {
  const plan = planOf(build);
  const { looked, look } = useScheme();
  const [name, setName] = useState('');
  const [brush, setBrush] = useState(String(plan?.brush ?? 4));
  const schemes = plan?.schemes ?? [];
  const now =
    schemes.find((one) => one.name === looked) ??
    schemes.find((one) => one.name === plan?.scheme) ??
    schemes[0];
  const fresh = name.trim();
  const can = !busy && fresh !== '' && !schemes.some((one) => one.name === fresh);
  const add = () => {
    if (!can) return;
    changePlan({ build, acts }, `scheme ${fresh}`, {
      schemes: [...schemes, { name: fresh, roles: now?.roles ?? [] }],
    });
    look(fresh);
    setName('');
  };
  const width = numberIn(brush);
  useKeys({ a: add });
  return (
    <>
      <div className="fields two">
        <TextField
          size="small"
          label="Name of another scheme"
          placeholder="dusk, low tide"
          value={name}
          slotProps={{ htmlInput: { maxLength: 60 } }}
          onChange={(event) => setName(event.target.value)}
        />
        <button className="ruled" disabled={!can} onClick={add}>
          Begin it{now ? ` as ${now.name} is` : ''}
        </button>
      </div>
      <ul className="plain-list" aria-label="Schemes there are">
        {schemes.map((one) => (
          <li key={one.name}>
            {one.name}{' '}
            {one.name === (plan?.scheme || schemes[0]?.name) ? (
              <span className="soft">is meant</span>
            ) : (
              <button
                className="plain"
                disabled={busy}
                onClick={() => changePlan({ build, acts }, `${one.name} is meant`, { scheme: one.name })}
              >
                <u>this one is meant</u>
              </button>
            )}{' '}
            {schemes.length > 1 && (
              <button
                className="plain"
                disabled={busy}
                aria-label={`Leave out ${one.name}`}
                onClick={() =>
                  changePlan({ build, acts }, `${one.name} left out`, {
                    schemes: schemes.filter((other) => other !== one),
                  })
                }
              >
                <u>leave out</u>
              </button>
            )}
          </li>
        ))}
      </ul>
      <OtherFigure build={build} acts={acts} busy={busy} page={page} />
      <h3>How it is painted</h3>
      <p>
        <label>
          <input
            type="checkbox"
            disabled={busy}
            checked={plan?.painted_before ?? false}
            onChange={() =>
              changePlan({ build, acts }, 'order of work', {
                painted_before: !(plan?.painted_before ?? false),
              })
            }
          />{' '}
          all parts first, assembled last
        </label>
      </p>
      <p>
        <label>
          <input
            type="checkbox"
            disabled={busy}
            checked={plan?.supports_cured ?? false}
            onChange={() =>
              changePlan({ build, acts }, 'order of work', {
                supports_cured: !(plan?.supports_cured ?? false),
              })
            }
          />{' '}
          supports come off after the cure
        </label>
      </p>
      <div className="fields two">
        <NumberField label="Width of the brush, mm" text={brush} change={setBrush} />
        <button
          className="ruled"
          disabled={busy || width === null || width < 0.2 || width > 60}
          onClick={() => width !== null && changePlan({ build, acts }, 'another brush', { brush: width })}
        >
          Look where it comes to
        </button>
      </div>
    </>
  );
}
