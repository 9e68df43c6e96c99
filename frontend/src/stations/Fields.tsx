import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';

/** Any number in a text, with a comma or a point; none where it is not one. */
export function anyNumberIn(text: string): number | null {
  const value = Number(text.trim().replace(',', '.'));
  return text.trim() !== '' && Number.isFinite(value) ? value : null;
}

/** The number in a text, with a comma or a point; none where it is not above 0, or 0 itself where that will do. */
export function numberIn(text: string, zero = false): number | null {
  const value = anyNumberIn(text);
  return value !== null && (value > 0 || (zero && value === 0)) ? value : null;
}

/** A field for a number above 0, or from 0 on. */
export function NumberField({
  label,
  text,
  change,
  optional = false,
  zero = false,
  any = false,
}: {
  label: string;
  text: string;
  change: (text: string) => void;
  optional?: boolean;
  zero?: boolean;
  /** Whether it may be below 0. */
  any?: boolean;
}) {
  const wrong =
    (any ? anyNumberIn(text) : numberIn(text, zero)) === null && !(optional && text.trim() === '');
  return (
    <TextField
      size="small"
      label={label}
      value={text}
      error={wrong && text !== ''}
      helperText={
        wrong && text !== ''
          ? any
            ? 'a number'
            : zero
              ? 'a number from 0 on'
              : 'a number above 0'
          : undefined
      }
      onChange={(event) => change(event.target.value)}
    />
  );
}

/** One of a few things, each by its name. */
export function ChoiceField<T extends string | number>({
  label,
  value,
  options,
  change,
  disabled = false,
  helperText,
  shownWhenEmpty = false,
}: {
  label: string;
  /** Empty while nothing is chosen. */
  value: T | '';
  /** By the value, or as pairs where their order matters. */
  options: Record<T, string> | readonly (readonly [T, string])[];
  change: (to: T) => void;
  disabled?: boolean;
  helperText?: string;
  /** Whether the empty value is one of the options. */
  shownWhenEmpty?: boolean;
}) {
  const pairs = (Array.isArray(options) ? options : Object.entries(options)) as readonly (readonly [
    T,
    string,
  ])[];
  return (
    <TextField
      select
      size="small"
      label={label}
      value={value}
      disabled={disabled}
      helperText={helperText}
      slotProps={shownWhenEmpty ? { select: { displayEmpty: true }, inputLabel: { shrink: true } } : {}}
      onChange={(event) => change(event.target.value as T)}
    >
      {pairs.map(([key, name]) => (
        <MenuItem key={key} value={key}>
          {name}
        </MenuItem>
      ))}
    </TextField>
  );
}

/** A number above 0 that is kept when it is left or entered. */
export function KeptNumber({
  label,
  value,
  save,
}: {
  label: string;
  value: string;
  save: (value: number) => void;
}) {
  const [text, setText] = useState(value);
  const number = numberIn(text);
  const keep = () => number !== null && text !== value && save(number);
  return (
    <TextField
      label={label}
      value={text}
      error={number === null}
      helperText={number === null ? 'a number above 0' : ' '}
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => event.key === 'Enter' && keep()}
    />
  );
}
