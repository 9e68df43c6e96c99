import Autocomplete from '@mui/material/Autocomplete';
import Dialog from '@mui/material/Dialog';
import TextField from '@mui/material/TextField';
import { useState } from 'react';

/** Asks for a name, new or one of those there are. */
export function AskName({
  title,
  label,
  now,
  known = [],
  may = '',
  longest,
  done,
  close,
}: {
  title: string;
  label: string;
  now: string;
  known?: string[];
  /** What an empty name means; nothing where there must be one. */
  may?: string;
  longest: number;
  done: (name: string) => void;
  close: () => void;
}) {
  const [name, setName] = useState(now);
  const usable = name.trim() !== '' || may !== '';
  return (
    <Dialog open onClose={close} aria-labelledby="ask-name" fullWidth maxWidth="xs">
      <form
        className="keys-sheet"
        onSubmit={(event) => {
          event.preventDefault();
          if (!usable) return;
          done(name.trim());
          close();
        }}
      >
        <h2 id="ask-name">{title}</h2>
        <div className="fields">
          <Autocomplete
            freeSolo
            options={known}
            inputValue={name}
            onInputChange={(_, typed) => setName(typed.slice(0, longest))}
            renderInput={(props) => <TextField {...props} autoFocus label={label} helperText={may} />}
          />
        </div>
        <button className="ruled" type="submit" disabled={!usable}>
          Keep that name
        </button>{' '}
        <button className="plain" type="button" onClick={close}>
          <u>leave it</u>
        </button>
      </form>
    </Dialog>
  );
}
