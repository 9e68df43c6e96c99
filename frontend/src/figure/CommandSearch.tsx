import Autocomplete from '@mui/material/Autocomplete';
import Dialog from '@mui/material/Dialog';
import TextField from '@mui/material/TextField';

/** Something that can be done now, by its name. */
export interface Command {
  name: string;
  /** The key that does it without this sheet. */
  key?: string;
  act: () => void;
}

/** Everything that can be done here, found by typing a part of its name. */
export function CommandSearch({
  open,
  close,
  commands,
}: {
  open: boolean;
  close: () => void;
  commands: Command[];
}) {
  return (
    <Dialog open={open} onClose={close} aria-labelledby="acts-title" fullWidth maxWidth="sm">
      <div className="acts-sheet">
        <h2 id="acts-title">What to do</h2>
        <Autocomplete
          open
          autoHighlight
          disablePortal
          options={commands}
          getOptionLabel={(option) => option.name}
          noOptionsText="Nothing here goes by that name."
          onChange={(_, chosen) => {
            close();
            chosen?.act();
          }}
          renderOption={({ key, ...props }, option) => (
            <li key={key} {...props}>
              <span>{option.name}</span>
              {option.key && <kbd>{option.key}</kbd>}
            </li>
          )}
          renderInput={(props) => <TextField {...props} autoFocus label="A part of its name" />}
        />
      </div>
    </Dialog>
  );
}
