import TextField from '@mui/material/TextField';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import {
  api,
  dataOf,
  type BuildRecord,
  type FigurePage,
  type ShelfFigure,
  type StepOf,
} from '../../app/client';
import type { FigureActs } from '../../figure/useFigure';
import { NumberField, numberIn, ChoiceField } from '../Fields';
import { StepSentences } from '../StepSentences';

type Thing = StepOf<'foreign'>['thing'];
type Shape = Thing['shape'];

const SHAPES: Record<Shape, { says: string; lengths: [string, string][] }> = {
  round: {
    says: 'something round',
    lengths: [
      ['diameter', 'across'],
      ['length', 'long'],
    ],
  },
  block: {
    says: 'a block',
    lengths: [
      ['wide', 'wide'],
      ['deep', 'deep'],
      ['tall', 'tall'],
    ],
  },
  'screw-boss': {
    says: 'a boss for a screw',
    lengths: [
      ['diameter', 'across'],
      ['hole', 'hole'],
      ['length', 'long'],
    ],
  },
  rod: {
    says: 'a rod or wire',
    lengths: [
      ['diameter', 'across'],
      ['length', 'long'],
    ],
  },
  mesh: { says: 'a figure or scan of the shelf', lengths: [] },
  disc: {
    says: 'a disc or magnet',
    lengths: [
      ['diameter', 'across'],
      ['thickness', 'thick'],
    ],
  },
};

/** The things that lie beside the figure. */
export function ThingsBeside({ build, acts }: { build: BuildRecord; acts: FigureActs }) {
  return (
    <>
      <h3>Beside it, never printed</h3>
      <StepSentences
        build={build}
        acts={acts}
        kind="foreign"
        label="Foreign things"
        none="Nothing it has to fit to."
      />
    </>
  );
}

/** Things the figure must mate with or is sized by: drawn beside it as ghosts, never exported. */
export function ForeignThings({
  page,
  build,
  acts,
}: {
  page: FigurePage;
  build: BuildRecord;
  acts: FigureActs;
}) {
  const [shape, setShape] = useState<Shape>('round');
  const [name, setName] = useState('');
  const [texts, setTexts] = useState<Record<string, string>>({});
  const lengths = SHAPES[shape].lengths;
  const ready =
    name.trim() &&
    (shape !== 'mesh' || texts.mesh) &&
    lengths.every(([key]) => numberIn(texts[key] ?? '') !== null);
  const [wide = 0] = build.size_mm;
  const factor = build.parts[0]?.facts.factor ?? 1;
  const shelf = useQuery({
    queryKey: ['shelf'],
    queryFn: () => dataOf<ShelfFigure[]>(api.GET('/api/shelf')),
    enabled: shape === 'mesh',
  });
  const others = (shelf.data ?? []).filter((figure) => figure.id !== page.id);
  const lay = (thing: object, broad: number) => {
    acts.addStep(`laid ${name.trim()} beside it`, {
      kind: 'foreign',
      name: name.trim(),
      // Its fields are those of its shape, as the fields on the page are.
      thing: { shape, ...thing } as Thing,
      at: [(wide / 2 + broad / 2 + 4) / factor, 0, 0],
    });
    setName('');
  };
  const add = async () => {
    if (shape !== 'mesh') {
      const thing = Object.fromEntries(lengths.map(([key]) => [key, numberIn(texts[key] ?? '')]));
      return lay(thing, thing.diameter ?? thing.wide ?? 0);
    }
    // A scan or sculpt on the shelf, as large as it was brought in.
    const path = { number: Number(texts.mesh) };
    const other = await dataOf<FigurePage>(api.GET('/api/figures/{number}', { params: { path } }));
    const brought = other.build?.steps[0]?.step;
    const was = other.build?.parts[0]?.facts;
    if (brought?.kind === 'bring-in' && was) {
      lay({ source: brought.source, unit: brought.unit, up: brought.up }, was.size_mm[0] / was.factor);
    }
  };
  return (
    <>
      <div className="fields two">
        <TextField
          size="small"
          label="Name of the thing"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <ChoiceField
          label="Shape of the thing"
          value={shape}
          options={(Object.keys(SHAPES) as Shape[]).map((key) => [key, SHAPES[key].says] as const)}
          change={setShape}
        />
        {shape === 'mesh' && (
          <ChoiceField
            label="Figure of the shelf"
            value={texts.mesh ?? ''}
            options={others.map((figure) => [String(figure.id), figure.name] as const)}
            change={(to) => setTexts({ ...texts, mesh: to })}
          />
        )}
        {lengths.map(([key, says]) => (
          <NumberField
            key={key}
            label={`${says}, mm`}
            text={texts[key] ?? ''}
            change={(text) => setTexts({ ...texts, [key]: text })}
          />
        ))}
      </div>
      <button className="ruled" disabled={!ready || acts.busy || acts.stale} onClick={() => void add()}>
        Lay it there
      </button>
    </>
  );
}
