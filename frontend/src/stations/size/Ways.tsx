import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import {
  api,
  dataOf,
  type BuildRecord,
  type FigurePage,
  type Setup,
  type ShelfFigure,
  type SizeWorked,
  type Way,
} from '../../app/client';
import { count, duration, mm, money } from '../../app/units';
import type { Picking } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import { ChoiceField, NumberField, numberIn } from '../Fields';
import styles from './size.module.css';

const WAYS = {
  height: 'overall height',
  eye: 'height to the eyes',
  ratio: 'one to so many of life',
  percent: 'percent of the source',
  match: 'one length to another',
  figure: 'as tall as another figure',
  base: 'to fill a base',
  fit: 'the largest that fits a printer',
};
type Name = keyof typeof WAYS;

interface Props {
  page: FigurePage;
  build: BuildRecord;
  acts: FigureActs;
  setups: Setup[];
  setup: Setup | undefined;
  picking: Picking;
}

/** Ways to say a size, each with its working and what follows, before it is set. */
export function Ways({ page, build, acts, setups, setup, picking }: Props) {
  const [name, setName] = useState<Name>('height');
  const [texts, setTexts] = useState<Record<string, string>>({ real: '1750', rim: '1' });
  const set = (key: string) => (text: string) => setTexts({ ...texts, [key]: text });
  const shelf = useQuery({
    queryKey: ['shelf'],
    queryFn: () => dataOf<ShelfFigure[]>(api.GET('/api/shelf')),
    enabled: name === 'figure',
  });
  const lengths = measuredLengths(build);
  const way = wayOf(name, { printer: setup?.printer.id ?? '', ...texts }, shelf.data ?? [], lengths);
  const path = { number: page.id };
  const worked = useQuery({
    queryKey: ['size', page.id, build.key, way],
    queryFn: () =>
      dataOf<SizeWorked>(
        api.POST('/api/figures/{number}/size', { params: { path }, body: { way: way as Way } }),
      ),
    enabled: way !== null && !acts.stale,
    retry: false,
  });
  const field = (key: string, label: string) => (
    <NumberField key={key} label={label} text={texts[key] ?? ''} change={set(key)} />
  );
  const eyes = () =>
    picking.ask({
      says: 'Pick the eyes',
      count: 1,
      then: ([pick]) => pick && set('at')(pick.point[2].toFixed(3)),
    });
  return (
    <>
      <div className="fields">
        <ChoiceField label="Size it by" value={name} options={WAYS} change={setName} />
        {name === 'height' && field('height', 'From the ground to the top, mm')}
        {name === 'eye' && field('eye', 'From the ground to the eyes, mm')}
        {name === 'eye' && (
          <NumberField
            optional
            label="Eyes of the source, mm up (14 fifteenths if left empty)"
            text={texts.at ?? ''}
            change={set('at')}
          />
        )}
        {name === 'eye' && (
          <button className="ruled" disabled={acts.stale} onClick={eyes}>
            Pick the eyes on the figure
          </button>
        )}
        {name === 'ratio' && field('n', 'One to')}
        {name === 'ratio' && field('real', 'Height in life, mm')}
        {name === 'percent' && field('percent', 'Percent')}
        {name === 'match' && (
          <ChoiceField
            label="What was measured"
            value={texts.length ?? ''}
            options={lengths.map(
              (length) => [length.name, `${length.name}, ${mm(length.figure)} mm of the source`] as const,
            )}
            helperText={lengths.length ? undefined : 'Nothing is measured yet: measure on the figure first.'}
            change={(to) => set('length')(to)}
          />
        )}
        {name === 'match' && field('wanted', 'Is to print as, mm')}
        {name === 'match' &&
          build.ghosts.map((ghost) => (
            <div key={ghost.name}>
              <span className="soft">{ghost.name}:</span>{' '}
              {Object.entries(ghost.yardsticks).map(([side, value]) => (
                <button className="plain" key={side} onClick={() => set('wanted')(String(value))}>
                  <u>
                    {side} {mm(value)} mm
                  </u>{' '}
                </button>
              ))}
            </div>
          ))}
        {name === 'figure' && (
          <ChoiceField
            label="As tall as"
            value={texts.figure ?? ''}
            options={(shelf.data ?? [])
              .filter((other) => other.id !== page.id && other.size_mm)
              .map(
                (other) => [String(other.id), `${other.name}, ${mm(other.size_mm?.[2] ?? 0)} mm`] as const,
              )}
            change={(to) => set('figure')(to)}
          />
        )}
        {name === 'base' && field('diameter', 'Base across, mm')}
        {name === 'base' && field('rim', 'Left free all round, mm')}
        {name === 'fit' && (
          <>
            <ChoiceField
              label="Printer"
              value={texts.printer ?? setup?.printer.id ?? ''}
              options={Object.fromEntries(setups.map(({ printer }) => [printer.id, printer.name]))}
              change={(to) => set('printer')(to)}
            />
            <ChoiceField
              label="How it lies there"
              value={texts.turned ?? 'standing'}
              options={{ standing: 'standing as it does', turned: 'turned any way' }}
              change={(to) => set('turned')(to)}
            />
          </>
        )}
      </div>
      {worked.isError && way && (
        <p className="error" role="alert">
          {worked.error.message}
        </p>
      )}
      {worked.data && way && (
        <Follows found={worked.data} build={build} page={page} acts={acts} meant={meantBy(name)} />
      )}
    </>
  );
}

/** Which length a way of sizing means; nothing for the overall height, which is what is meant by itself. */
const meantBy = (name: Name) => (name === 'height' ? '' : WAYS[name]);

function Follows({
  meant,
  found,
  build,
  page,
  acts,
}: {
  meant: string;
  found: SizeWorked;
  build: BuildRecord;
  page: FigurePage;
  acts: FigureActs;
}) {
  const { worked, size_mm: size, estimate, near } = found;
  const before = build.estimate;
  return (
    <div className={styles.worked} role="status">
      <ol className="plain-list">
        {worked.working.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ol>
      <dl className="facts">
        <dt>{build.parts.length > 1 ? 'assembled' : 'size'}</dt>
        <dd>
          {size.map(mm).join(' x ')} mm
          {build.parts.length > 1 && `, all ${build.parts.length} parts grown together`}
        </dd>
        {estimate && before && (
          <>
            <dt>would take</dt>
            <dd>
              {estimate.material_ml.toFixed(1)} ml for {before.material_ml.toFixed(1)},{' '}
              {duration(estimate.seconds)} for {duration(before.seconds)}, {money(estimate.money)} for{' '}
              {money(before.money)} <span className="soft">(estimate)</span>
            </dd>
          </>
        )}
        {near && (
          <>
            <dt>walls</dt>
            <dd>
              {near.thin
                ? `${count(near.thin, 'place')} too thin, ${near.stops} of them to print at all`
                : 'none too thin'}
              {near.too_fine > 0 && `, ${near.too_fine} finer than the printer draws`}
            </dd>
          </>
        )}
        {!found.fits && (
          <>
            <dt>room</dt>
            <dd>does not fit its printer as it stands</dd>
          </>
        )}
      </dl>
      <button
        className="ruled"
        disabled={acts.busy || acts.stale}
        onClick={() => acts.setEdition({ ...page.edition, ...asSaid(found) }, meant)}
      >
        Make it {mm(found.height)} mm tall
      </button>
      {estimate && <p className="soft">{estimate.model}</p>}
    </div>
  );
}

/** A size as an edition keeps it: later steps may have made the figure taller than what its height is said of. */
const asSaid = ({ by_factor, height, worked }: SizeWorked) =>
  by_factor ? { height: null, factor: worked.factor } : { height, factor: null };

/** Lengths measured on the figure, in mm of the source. */
export function measuredLengths(build: BuildRecord): { name: string; figure: number }[] {
  return build.steps.flatMap(({ step, receipt: { figure } }) => {
    return step.kind === 'measure' && step.how !== 'angle' && typeof figure === 'number'
      ? [{ name: step.name, figure }]
      : [];
  });
}

function wayOf(
  name: Name,
  texts: Record<string, string>,
  shelf: ShelfFigure[],
  lengths: { name: string; figure: number }[],
): object | null {
  const number = (key: string) => numberIn(texts[key] ?? '');
  const all = (...keys: string[]) => keys.every((key) => number(key) !== null);
  switch (name) {
    case 'height':
      return all('height') ? { way: 'height', height: number('height') } : null;
    case 'eye':
      return all('eye') ? { way: 'eye', eye: number('eye'), at: number('at') } : null;
    case 'ratio':
      return all('n', 'real') ? { way: 'ratio', n: number('n'), real: number('real') } : null;
    case 'percent':
      return all('percent') ? { way: 'percent', percent: number('percent') } : null;
    case 'match': {
      const length = lengths.find((other) => other.name === texts.length);
      return length && all('wanted')
        ? { way: 'match', length: length.figure, wanted: number('wanted'), of: length.name }
        : null;
    }
    case 'figure': {
      const other = shelf.find((figure) => String(figure.id) === texts.figure);
      return other?.size_mm ? { way: 'height', height: other.size_mm[2] } : null;
    }
    case 'base':
      return all('diameter') ? { way: 'base', diameter: number('diameter'), rim: number('rim') ?? 0 } : null;
    case 'fit':
      return { way: 'fit', printer: texts.printer, turned: texts.turned === 'turned' };
  }
}
