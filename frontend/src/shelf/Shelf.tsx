import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { Coming, FilePicker, useBringIn } from '../app/bringIn';
import { api, told, type ShelfFigure } from '../app/client';
import { JobLine } from '../app/JobLine';
import { turnLight } from '../app/light';
import { LightSwitch } from '../app/LightSwitch';
import { MarkCounts } from '../app/Mark';
import { mm, roundLength } from '../app/units';
import { useKeys } from '../app/useKeys';
import { BeginForm } from './BeginForm';
import { DeleteFigure, ShelfFoot } from './Deleted';
import { Ruler } from './Ruler';
import { useFileDrop } from './useFileDrop';

const SHELF_PIXELS = 480;

/** The studio's figures, drawn to true relative scale beside one ruler. */
export function Shelf() {
  const figures = useQuery({
    queryKey: ['shelf'],
    queryFn: () => told<ShelfFigure[]>(api.GET('/api/shelf')),
  });
  const { coming, error, bringIn, begin } = useBringIn();
  const [beginning, setBeginning] = useState(false);

  useKeys({ n: turnLight });
  const dropping = useFileDrop((file) => void bringIn(file));
  const all = figures.data ?? [];
  return (
    <div className="page">
      <header className="head">
        <h1 className="name">Ulvet</h1>
        <span>
          Shelf of <b>Sedgewater</b>
        </span>
        <span className="right">
          <Coming coming={coming} />
          <LightSwitch />
          <Link to="/bits">Bits</Link>
          <Link to="/line-up">Line-up</Link>
          <Link to="/scanner">Scan an object</Link>
          <button className="ruled" onClick={() => setBeginning(true)}>
            Begin with a form
          </button>
          <FilePicker says="Bring in a figure" take={(file) => void bringIn(file)} />
        </span>
      </header>
      <BeginForm
        open={beginning}
        close={() => setBeginning(false)}
        begin={(begun) => {
          setBeginning(false);
          void begin(begun);
        }}
      />
      <main className="sheet">
        {dropping && (
          <div className="dropping">
            Let go to bring it in
            <span className="soft" style={{ font: '15px var(--sans)' }}>
              STL, OBJ, PLY, 3MF, GLB, or a ZIP with one of them
            </span>
          </div>
        )}
        <div className="shelf">
          <p className="error" role="alert">
            {error}
          </p>
          {figures.isError && <p className="error">{figures.error.message}</p>}
          {figures.isPending && <p className="empty">Looking through the shelf …</p>}
          {figures.isSuccess && all.length === 0 && <Empty />}
          {all.length > 0 && <Row figures={all} />}
          {figures.isSuccess && <ShelfFoot />}
        </div>
      </main>
    </div>
  );
}

function Row({ figures }: { figures: ShelfFigure[] }) {
  const tallest = Math.max(30, ...figures.map((figure) => Math.max(...(figure.size_mm ?? [0]))));
  const scale = SHELF_PIXELS / tallest;
  return (
    <div className="shelf-row">
      <Ruler scale={scale} length={tallest} step={roundLength(tallest / 6)} />
      {figures.map((figure) => (
        <Standing key={figure.id} figure={figure} scale={scale} />
      ))}
      <div className="shelf-room">
        <span>Room for the next: drop a sculpt or scan anywhere on this sheet</span>
        <div className="who" />
      </div>
    </div>
  );
}

function Standing({ figure, scale }: { figure: ShelfFigure; scale: number }) {
  const height = figure.size_mm?.[2];
  return (
    <div className="shelf-figure">
      <Link to={`/figures/${figure.id}`}>
        {figure.picture && height && (
          <img
            src={`/api/blobs/${figure.picture}`}
            alt=""
            height={Math.max(6, height * scale)}
            draggable={false}
          />
        )}
        <div className="who">
          <h2>{figure.name}</h2>
          {figure.trouble ? (
            <div className="error">{figure.trouble}</div>
          ) : (
            <>
              <div className="soft">{height ? `${mm(height)} mm tall` : 'size not known yet'}</div>
              <MarkCounts marks={figure.marks} />
              {!figure.job && (
                <div>
                  <span className="soft">next: </span>
                  {figure.next}
                </div>
              )}
            </>
          )}
        </div>
      </Link>
      {figure.job && <JobLine job={figure.job} />}
      <DeleteFigure figure={figure} />
    </div>
  );
}

function Empty() {
  return (
    <div className="empty">
      <h2>The shelf is empty</h2>
      <p>
        Drop a sculpt or scan here (STL, OBJ, PLY, 3MF, GLB), bring one in with the button above, or begin
        with a plain form. Ulvet measures it at print size and says what would go wrong before you print it.
      </p>
    </div>
  );
}
