import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useSearchParams } from 'react-router';

import { ErrorLine } from '../app/ErrorLine';
import { api, dataOf, type ShelfFigure } from '../app/client';
import { turnLight } from '../app/light';
import { mm } from '../app/units';
import { useKeys } from '../app/useKeys';
import { ChoiceField, numberIn, NumberField } from '../stations/Fields';
import { SheetHead } from './SheetHead';

/** The line-up: figures of the shelf side by side at true size, on screen and on paper; and flat labels. */
export default function LineUpPage() {
  const [asked] = useSearchParams();
  const first = (asked.get('figures') ?? '').split(',').filter(Boolean).map(Number);
  const shelf = useQuery({
    queryKey: ['shelf'],
    queryFn: () => dataOf<ShelfFigure[]>(api.GET('/api/shelf')),
  });
  const [chosen, setChosen] = useState<number[] | null>(null);
  const [hand, setHand] = useState(false);
  const [paper, setPaper] = useState('a4');
  useKeys({ n: turnLight });
  const ready = (shelf.data ?? []).filter((figure) => figure.size_mm);
  const line = chosen ?? ready.map((figure) => figure.id);
  const shown = ready.filter((figure) => line.includes(figure.id));
  // Whoever came from a figure sees it first.
  const order = [...shown].sort((a, b) => Number(first.includes(b.id)) - Number(first.includes(a.id)));
  const query = [...order.map((figure) => `figures=${figure.id}`), `hand=${hand}`].join('&');
  const turn = (id: number) =>
    setChosen(line.includes(id) ? line.filter((other) => other !== id) : [...line, id]);
  return (
    <div className="page">
      <SheetHead name="Line-up" />
      <main className="sheet">
        <div className="line-up">
          <section aria-label="What stands in it">
            <h2>Who stands in it</h2>
            <ErrorLine says={shelf.error?.message} />
            <ul className="plain-list">
              {ready.map((figure) => (
                <li key={figure.id}>
                  <label>
                    <input
                      type="checkbox"
                      checked={line.includes(figure.id)}
                      onChange={() => turn(figure.id)}
                    />{' '}
                    {figure.name}, {mm(figure.size_mm?.[2] ?? 0)} mm
                  </label>
                </li>
              ))}
              <li>
                <label>
                  <input type="checkbox" checked={hand} onChange={(event) => setHand(event.target.checked)} />{' '}
                  a block as large as a grown hand
                </label>
              </li>
            </ul>
            <div className="fields two">
              <ChoiceField
                label="Paper"
                value={paper}
                options={{ a4: 'A4', a3: 'A3', letter: 'Letter' }}
                change={setPaper}
              />
              <a className="ruled" href={`/api/line-up.pdf?${query}&paper=${paper}`} download>
                On paper, true size
              </a>
            </div>
            <p className="soft">
              Print it without fitting to the page, and lay a rule on the 100 mm bar before you trust it.
              Larger line-ups take several sheets that overlap.
            </p>
            <Label />
          </section>
          <div className="drawing-side">
            {order.length > 0 ? (
              <img
                src={`/api/line-up.svg?${query}`}
                alt={`Silhouettes at true size: ${order.map((figure) => figure.name).join(', ')}`}
              />
            ) : (
              <p className="empty soft">
                {shelf.isPending ? 'Looking through the shelf …' : 'Nobody stands here: tick a figure.'}
              </p>
            )}
          </div>
        </div>
      </main>
    </div>
  );
}

/** A flat label: the band for a cylinder or cone, unrolled. */
function Label() {
  const [texts, setTexts] = useState({ height: '18', girth: '94', girth_above: '', overlap: '5' });
  const field = (key: keyof typeof texts, label: string, optional = false) => (
    <NumberField
      label={label}
      text={texts[key]}
      change={(text) => setTexts({ ...texts, [key]: text })}
      optional={optional}
    />
  );
  const usable = (['height', 'girth', 'overlap'] as const).every((key) => numberIn(texts[key]) !== null);
  const query = Object.entries(texts)
    .flatMap(([key, text]) => (numberIn(text) === null ? [] : [`${key}=${numberIn(text)}`]))
    .join('&');
  return (
    <>
      <h2>A band to go round</h2>
      <div className="fields two">
        {field('height', 'Height, mm')}
        {field('girth', 'Girth below, mm')}
        {field('girth_above', 'Girth above, if a cone', true)}
        {field('overlap', 'Overlap, mm')}
      </div>
      {usable && (
        <>
          <img className="label" src={`/api/label.svg?${query}`} alt="The band, unrolled" />
          <p>
            <a href={`/api/label.pdf?${query}`} download>
              On paper, true size
            </a>
            ,{' '}
            <a href={`/api/label.svg?${query}`} download="label.svg">
              as SVG
            </a>
          </p>
        </>
      )}
    </>
  );
}
