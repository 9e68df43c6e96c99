import TextField from '@mui/material/TextField';
import { useState } from 'react';

import type { StockView } from '../app/client';
import { today } from '../app/units';
import { ChoiceField, NumberField, numberIn } from '../stations/Fields';

type Good = StockView['standing'][number]['good'];

const KINDS = {
  counted: 'Counted: so much is there',
  delivered: 'Delivered',
  used: 'Used',
  'thrown away': 'Thrown away',
} as const;
type Kind = keyof typeof KINDS;

/** One line of the ledger to enter. */
export function EnterStock({
  goods,
  chosen,
  busy,
  enter,
}: {
  goods: Good[];
  /** Key of the good that is looked at, if one is. */
  chosen: string;
  busy: boolean;
  enter: (line: { good: string; kind: Kind; amount: number; day: string; says: string }) => void;
}) {
  const [good, setGood] = useState(chosen);
  const [kind, setKind] = useState<Kind>('counted');
  const [text, setText] = useState('');
  const [says, setSays] = useState('');
  const amount = numberIn(text, kind === 'counted');
  const unit = goods.find(({ key }) => key === good)?.unit ?? '';
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!good || amount === null) return;
        enter({ good, kind, amount, day: today(), says });
        setText('');
        setSays('');
      }}
    >
      <h2>Enter a line</h2>
      <div className="fields two">
        <ChoiceField
          label="Good"
          value={good}
          options={goods.map(({ key, name }) => [key, name] as const)}
          change={setGood}
        />
        <ChoiceField label="What it was" value={kind} options={KINDS} change={setKind} />
        <NumberField
          label={unit ? `How much, ${unit}` : 'How much'}
          text={text}
          change={setText}
          zero={kind === 'counted'}
        />
        <TextField
          size="small"
          label="Note"
          value={says}
          slotProps={{ htmlInput: { maxLength: 200 } }}
          onChange={({ target }) => setSays(target.value)}
        />
      </div>
      <p>
        <button className="ruled" type="submit" disabled={busy || !good || amount === null}>
          Enter the line
        </button>
      </p>
    </form>
  );
}
