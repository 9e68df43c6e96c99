import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { sendPicture, type BuildRecord, type PartRecord, type PictureView } from '../app/client';
import { FilePicker } from '../app/bringIn';
import { anchor, type Picking } from '../figure/picking';
import type { FigureActs } from '../figure/useFigure';
import { NumberField, numberIn } from './Fields';

interface Props {
  build: BuildRecord;
  acts: FigureActs;
  picking: Picking;
  part: PartRecord | undefined;
}

/** A picture or a text pressed into the figure where it is picked. */
export function StampTools({ build, acts, picking, part }: Props) {
  const [picture, setPicture] = useState<PictureView | null>(null);
  const [text, setText] = useState('');
  const [error, setError] = useState('');
  const [numbers, setNumbers] = useState({ width: '8', depth: '0.4', turn: '' });
  const [as, setAs] = useState<'raised' | 'sunk'>('raised');
  const [inverted, setInverted] = useState(false);
  const [straight, setStraight] = useState(false);
  const source = String(build.steps[0]?.values.source ?? '');
  const set = (key: keyof typeof numbers) => (said: string) => setNumbers({ ...numbers, [key]: said });
  const [width, depth] = [numberIn(numbers.width), numberIn(numbers.depth)];
  const turn = numbers.turn.trim() === '' ? 0 : Number(numbers.turn.replace(',', '.'));
  const what = picture ? { picture: picture.sha256 } : { text: text.trim() };
  const name = picture?.file_name ?? text.trim();
  const ready =
    name !== '' && width !== null && depth !== null && Number.isFinite(turn) && Math.abs(turn) <= 360;
  const take = async (file: File) => {
    setError('');
    try {
      setPicture(await sendPicture(file));
    } catch (failure) {
      setError(failure instanceof Error ? failure.message : 'The picture could not be sent: try again.');
    }
  };
  const press = () =>
    picking.ask({
      says: 'Pick the middle of the stamp',
      count: 1,
      then: ([place]) =>
        place &&
        acts.addStep(`pressed ${name}`, {
          kind: 'stamp',
          scope: build.parts.length > 1 ? (part?.facts.part ?? null) : null,
          name: name.slice(0, 80),
          ...what,
          places: [anchor(place, source)],
          view: straight ? place.view : null,
          width,
          depth,
          sunk: as === 'sunk',
          inverted: picture !== null && inverted,
          turn,
        }),
    });
  return (
    <>
      <h3>A stamp</h3>
      <div className="fields">
        <p className="plain-row">
          <FilePicker
            says={picture ? 'Another picture' : 'Take a picture, PNG or SVG'}
            label="A picture for the stamp"
            accept=".png,.svg"
            take={(file) => void take(file)}
          />
          {picture && (
            <span>
              {picture.file_name}{' '}
              <button className="plain" onClick={() => setPicture(null)}>
                <u>leave it</u>
              </button>
            </span>
          )}
        </p>
        {error && (
          <p className="error" role="alert">
            {error}
          </p>
        )}
        {!picture && (
          <TextField
            size="small"
            label="or a text"
            value={text}
            slotProps={{ htmlInput: { maxLength: 80 } }}
            onChange={(event) => setText(event.target.value)}
          />
        )}
        <div className="fields two">
          <NumberField label="Stamp across, mm" text={numbers.width} change={set('width')} />
          <NumberField label="Strokes high or deep, mm" text={numbers.depth} change={set('depth')} />
          <TextField
            select
            size="small"
            label="Strokes"
            value={as}
            onChange={(e) => setAs(e.target.value as typeof as)}
          >
            <MenuItem value="raised">raised</MenuItem>
            <MenuItem value="sunk">sunk</MenuItem>
          </TextField>
          <TextField
            size="small"
            label="Turned, ° anticlockwise"
            value={numbers.turn}
            onChange={(event) => set('turn')(event.target.value)}
          />
          <TextField
            select
            size="small"
            label="Pressed"
            value={straight ? 'view' : 'skin'}
            onChange={(event) => setStraight(event.target.value === 'view')}
          >
            <MenuItem value="skin">square to the skin</MenuItem>
            <MenuItem value="view">as it is looked at</MenuItem>
          </TextField>
          {picture && (
            <TextField
              select
              size="small"
              label="Strokes are"
              value={inverted ? 'light' : 'dark'}
              onChange={(event) => setInverted(event.target.value === 'light')}
            >
              <MenuItem value="dark">what is dark</MenuItem>
              <MenuItem value="light">what is light</MenuItem>
            </TextField>
          )}
        </div>
        {picture && width !== null && (
          <p className="soft">
            Its narrowest strokes will be {(picture.narrowest * width).toFixed(2)} mm wide, it{' '}
            {(picture.ratio * width).toFixed(1)} mm high.
          </p>
        )}
        <button className="ruled" disabled={acts.busy || acts.stale || !ready} onClick={press}>
          Pick its place on the figure
        </button>
      </div>
    </>
  );
}
