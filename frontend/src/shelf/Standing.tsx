import { useEffect, useRef, useState, type DragEvent } from 'react';
import { Link } from 'react-router';

import type { ShelfFigure } from '../app/client';
import { JobLine } from '../app/JobLine';
import { MarkCounts } from '../app/Mark';
import { mm } from '../app/units';
import { useKeys } from '../app/useKeys';
import { AskName } from './AskName';
import { DeleteFigure } from './Deleted';
import type { ShelfActs } from './useShelf';

const LEAST_PIXELS = 6;

/** A figure on its ledge: its picture to scale, its name, and what is next. */
export function Standing({
  figure,
  scale,
  shelf,
  collections,
  here,
  turnTo,
  drag,
}: {
  figure: ShelfFigure;
  /** Pixels a mm. */
  scale: number;
  shelf: ShelfActs;
  collections: string[];
  /** Whether the keys are at it. */
  here: boolean;
  turnTo: (figure: number) => void;
  drag: (event: DragEvent) => void;
}) {
  const [asking, setAsking] = useState<'name' | 'collection' | 'delete' | null>(null);
  const link = useRef<HTMLAnchorElement>(null);
  const height = figure.size_mm?.[2];
  const close = () => setAsking(null);
  useEffect(() => {
    if (here) link.current?.focus();
  }, [here]);
  return (
    <div className={`shelf-figure ${figure.job ? 'under-way' : ''}`} onFocus={() => turnTo(figure.id)}>
      <Link to={`/figures/${figure.id}`} ref={link} draggable onDragStart={drag}>
        {figure.picture && height && (
          <img
            src={`/api/blobs/${figure.picture}`}
            alt=""
            height={Math.max(LEAST_PIXELS, height * scale)}
            draggable={false}
          />
        )}
        <div className="who">
          <h3>{figure.name}</h3>
          {figure.trouble ? (
            <div className="error">{figure.trouble}</div>
          ) : (
            <>
              <div>
                <span className="soft">{height ? `${mm(height)} mm` : 'size not known yet'}</span>{' '}
                <MarkCounts marks={figure.marks} />
              </div>
              {!figure.job && (
                <div className="next">
                  <span className="soft">next: </span>
                  {figure.next}
                </div>
              )}
            </>
          )}
        </div>
      </Link>
      {figure.job && <JobLine job={figure.job} />}
      <div className="figure-acts">
        <button className="plain" aria-label={`Rename ${figure.name}`} onClick={() => setAsking('name')}>
          <u>rename</u>
        </button>
        <button
          className="plain"
          aria-label={`Move ${figure.name} to a collection`}
          onClick={() => setAsking('collection')}
        >
          <u>move</u>
        </button>
        <button className="plain" aria-label={`Copy ${figure.name}`} onClick={() => shelf.copy(figure)}>
          <u>copy</u>
        </button>
        <button className="plain" aria-label={`Delete ${figure.name}`} onClick={() => setAsking('delete')}>
          <u>delete</u>
        </button>
      </div>
      {here && asking === null && <FigureKeys ask={setAsking} copy={() => shelf.copy(figure)} />}
      {asking === 'name' && (
        <AskName
          title={`Rename ${figure.name}`}
          label="Name of the figure"
          now={figure.name}
          longest={120}
          done={(name) => shelf.rename(figure, name)}
          close={close}
        />
      )}
      {asking === 'collection' && (
        <AskName
          title={`Move ${figure.name} to a collection`}
          label="Name of the collection"
          now={figure.collection}
          known={collections}
          may="Left empty, it stands in none."
          longest={80}
          done={(name) => shelf.move(figure.id, name)}
          close={close}
        />
      )}
      {asking === 'delete' && <DeleteFigure figure={figure} close={close} />}
    </div>
  );
}

/** The keys of the figure they are at. */
function FigureKeys({
  ask,
  copy,
}: {
  ask: (what: 'name' | 'collection' | 'delete') => void;
  copy: () => void;
}) {
  useKeys({
    r: () => ask('name'),
    m: () => ask('collection'),
    c: copy,
    Delete: () => ask('delete'),
  });
  return null;
}
