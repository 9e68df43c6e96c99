import TextField from '@mui/material/TextField';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import {
  api,
  sendPicture,
  dataOf,
  type BitView,
  type BuildRecord,
  type PartRecord,
  type PictureView,
} from '../../app/client';
import { sourceOf } from '../../app/steps';
import { FilePicker } from '../../app/bringIn';
import { anchor, type Picking } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import { ChoiceField, NumberField, numberIn } from '../Fields';

const FONTS = ['bold', 'plain', 'italic', 'bold italic'] as const;

interface Props {
  number: number;
  build: BuildRecord;
  acts: FigureActs;
  picking: Picking;
  part: PartRecord | undefined;
}

/** A picture or a text pressed into the figure where it is picked. */
export function StampTools({ number, build, acts, picking, part }: Props) {
  const [picture, setPicture] = useState<PictureView | null>(null);
  const [text, setText] = useState('');
  const [font, setFont] = useState<(typeof FONTS)[number]>('bold');
  const [error, setError] = useState('');
  const [numbers, setNumbers] = useState({ width: '8', depth: '0.4', turn: '' });
  const [as, setAs] = useState<'raised' | 'sunk'>('raised');
  const [inverted, setInverted] = useState(false);
  const [straight, setStraight] = useState(false);
  const source = sourceOf(build);
  const set = (key: keyof typeof numbers) => (said: string) => setNumbers({ ...numbers, [key]: said });
  const [width, depth] = [numberIn(numbers.width), numberIn(numbers.depth)];
  const turn = numbers.turn.trim() === '' ? 0 : Number(numbers.turn.replace(',', '.'));
  const what = picture ? { picture: picture.sha256 } : { text: text.trim(), font };
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
    width !== null &&
    depth !== null &&
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
        <ErrorLine says={error} />
        {!picture && (
          <TextField
            size="small"
            label="Text instead of a picture"
            value={text}
            slotProps={{ htmlInput: { maxLength: 80 } }}
            onChange={(event) => setText(event.target.value)}
          />
        )}
        {!picture && text.trim() !== '' && (
          <ChoiceField
            label="Font of the text"
            value={font}
            options={FONTS.map((each) => [each, each] as const)}
            change={setFont}
          />
        )}
        <ShelfStamps picture={picture} take={setPicture} number={number} />
        <div className="fields two">
          <NumberField label="Stamp across, mm" text={numbers.width} change={set('width')} />
          <NumberField label="Strokes high or deep, mm" text={numbers.depth} change={set('depth')} />
          <ChoiceField
            label="Strokes raised or sunk"
            value={as}
            options={{ raised: 'raised', sunk: 'sunk' }}
            change={setAs}
          />
          <TextField
            size="small"
            label="Turned, ° anticlockwise"
            value={numbers.turn}
            onChange={(event) => set('turn')(event.target.value)}
          />
          <ChoiceField
            label="Pressed in the direction"
            value={straight ? 'view' : 'skin'}
            options={{ skin: 'square to the skin', view: 'as it is looked at' }}
            change={(to) => setStraight(to === 'view')}
          />
          {picture && (
            <ChoiceField
              label="Strokes of the picture"
              value={inverted ? 'light' : 'dark'}
              options={{ dark: 'what is dark', light: 'what is light' }}
              change={(to) => setInverted(to === 'light')}
            />
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

/** Stamps of the shelf to take one from, and the way there for one that was brought in. */
function ShelfStamps({
  picture,
  take,
  number,
}: {
  picture: PictureView | null;
  take: (picture: PictureView) => void;
  number: number;
}) {
  const client = useQueryClient();
  const bits = useQuery({
    queryKey: ['bits', ''],
    queryFn: () => dataOf<BitView[]>(api.GET('/api/bits', { params: { query: { words: '' } } })),
  });
  const stamps =
    bits.data?.flatMap(({ id, name, stamp, terms }) => (stamp ? [{ id, name, stamp, terms }] : [])) ?? [];
  const shelve = useMutation({
    mutationFn: async ({ sha256, file_name }: PictureView) => {
      const name = file_name.replace(/\.[^.]*$/, '').slice(0, 80) || 'stamp';
      const body = { picture: sha256, file_name, figure: number, name, tags: ['stamp'] };
      await dataOf<BitView>(api.POST('/api/stamps', { body }));
      await client.invalidateQueries({ queryKey: ['bits'] });
    },
  });
  const there = stamps.some(({ stamp }) => stamp.sha256 === picture?.sha256);
  return (
    <>
      {stamps.length > 0 && (
        <ChoiceField
          label="Stamp of the shelf instead"
          value={stamps.find(({ stamp }) => stamp.sha256 === picture?.sha256)?.id ?? ''}
          options={stamps.map(({ id, name, terms }) => [id, `${name}, ${terms}`] as const)}
          change={(to) => {
            const chosen = stamps.find(({ id }) => id === Number(to));
            if (chosen) take(chosen.stamp);
          }}
        />
      )}
      {picture && !there && (
        <button className="plain" disabled={shelve.isPending} onClick={() => shelve.mutate(picture)}>
          <u>put it on the shelf of bits</u>
        </button>
      )}
      <ErrorLine says={shelve.error?.message} />
    </>
  );
}
