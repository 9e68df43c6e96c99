import Dialog from '@mui/material/Dialog';
import TextField from '@mui/material/TextField';
import { useState, type FormEvent } from 'react';

import type { Begun } from '../app/bringIn';
import { FORMS, type Form } from '../app/forms';
import { NumberField, numberIn } from '../stations/Fields';
import { ChoiceField } from '../stations/Fields';

/** Begins a figure with a plain solid that stands on the ground. */
export function BeginForm({
  open,
  close,
  begin,
}: {
  open: boolean;
  close: () => void;
  begin: (begun: Begun) => void;
}) {
  const [name, setName] = useState('');
  const [form, setForm] = useState<Form>('capsule');
  const [texts, setTexts] = useState({ wide: '12', deep: '10', tall: '28' });
  const sizes: readonly (keyof typeof texts)[] = FORMS[form];
  const ready = name.trim() !== '' && sizes.every((size) => numberIn(texts[size]) !== null);
  const number = (size: keyof typeof texts) => numberIn(texts[size]) ?? 1;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    begin({ name: name.trim(), form, wide: number('wide'), deep: number('deep'), tall: number('tall') });
  };
  return (
    <Dialog open={open} onClose={close} aria-labelledby="begin-title">
      <form className="keys-sheet" onSubmit={submit}>
        <h2 id="begin-title">Begin with a form</h2>
        <p>
          It stands on the ground, in the middle. More forms, joins, stamps and strokes are at Bring in. It
          counts as your own work.
        </p>
        <div className="fields">
          <TextField
            size="small"
            label="Name of the figure"
            value={name}
            onChange={(event) => setName(event.target.value.slice(0, 120))}
          />
          <ChoiceField
            label="Form"
            value={form}
            options={(Object.keys(FORMS) as (typeof form)[])
              .filter((key) => key !== 'tube')
              .map((key) => [key, key] as const)}
            change={setForm}
          />
          {sizes.map((size) => (
            <NumberField
              key={size}
              label={`${size}, mm`}
              text={texts[size]}
              change={(text) => setTexts({ ...texts, [size]: text })}
            />
          ))}
        </div>
        <button type="submit" className="ruled" disabled={!ready}>
          Stand it on the shelf
        </button>{' '}
        <button type="button" className="plain" onClick={close}>
          <u>leave it</u>
        </button>
      </form>
    </Dialog>
  );
}
