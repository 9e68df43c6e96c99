import TextField from '@mui/material/TextField';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';

import { ErrorLine } from '../app/ErrorLine';
import { api, dataOf, type BitView, type FigurePage } from '../app/client';
import { turnLight } from '../app/light';
import { mm } from '../app/units';
import { useKeys } from '../app/useKeys';
import { SheetHead } from './SheetHead';

/** The shelf of bits: parts of figures, found by their words, used again with their terms. */
export default function BitsPage() {
  const [asked] = useSearchParams();
  const figure = asked.get('figure') ? Number(asked.get('figure')) : null;
  const [words, setWords] = useState('');
  const client = useQueryClient();
  const navigate = useNavigate();
  const [dropped, setDropped] = useState<BitView | null>(null);
  useKeys({ n: turnLight, u: () => undo(), 'ctrl+z': () => undo() });
  const bits = useQuery({
    queryKey: ['bits', words],
    queryFn: () => dataOf<BitView[]>(api.GET('/api/bits', { params: { query: { words } } })),
    placeholderData: (before) => before,
  });
  const page = useQuery({
    queryKey: ['figure', figure, ''],
    queryFn: () =>
      dataOf<FigurePage>(api.GET('/api/figures/{number}', { params: { path: { number: figure ?? 0 } } })),
    enabled: figure !== null,
  });
  const drop = useMutation({
    mutationFn: async ({ id: bit }: BitView) => {
      await dataOf(api.DELETE('/api/bits/{bit}', { params: { path: { bit } } }));
      await client.invalidateQueries({ queryKey: ['bits'] });
    },
    onSuccess: (_, bit) => setDropped(bit),
  });
  const putBack = useMutation({
    mutationFn: async ({ id: bit }: BitView) => {
      await dataOf(api.POST('/api/bits/{bit}/put-back', { params: { path: { bit } } }));
      await client.invalidateQueries({ queryKey: ['bits'] });
    },
    onSuccess: () => setDropped(null),
  });
  const undo = () => dropped && putBack.mutate(dropped);
  const use = useMutation({
    mutationFn: (bit: BitView) => {
      const now = page.data;
      if (!now?.build) throw new Error('The figure is still being checked: wait for that.');
      const factor = now.build.parts[0]?.facts.factor ?? 1;
      const beside = now.build.size_mm[0] / 2 / factor + (bit.size_mm?.[0] ?? 0) / 2 + 2;
      return dataOf<FigurePage>(
        api.POST('/api/figures/{number}/bits', {
          params: { path: { number: now.id }, header: { 'If-Match': now.revision } },
          body: { bit: bit.id, at: [beside, 0, 0] },
        }),
      );
    },
    onSuccess: (changed) => {
      client.setQueryData(['figure', figure, ''], changed);
      void navigate(`/figures/${figure}/bring-in`);
    },
  });
  const error = use.error ?? drop.error ?? putBack.error ?? bits.error;
  return (
    <div className="page">
      <SheetHead
        name="Bits"
        by={page.data && { name: page.data.name, to: `/figures/${page.data.id}/bring-in` }}
      />
      <main className="sheet">
        <div className="bits">
          <TextField
            size="small"
            label="Words of its name, tags or figure"
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
          {page.data?.build && <Shelve page={page.data} />}
          <ErrorLine says={error?.message} />
          {dropped && (
            <p role="status">
              {dropped.name} is off the shelf; figures that use it keep it.{' '}
              <button className="plain" onClick={undo}>
                <kbd>U</kbd> <u>undo</u>
              </button>
            </p>
          )}
          {bits.data?.length === 0 && (
            <p className="empty soft">
              {words
                ? 'No bit goes by these words.'
                : 'No bits yet: open a figure, go from its Bring in sheet to this shelf, and put a part here.'}
            </p>
          )}
          <ul className="bit-rows" aria-label="Bits">
            {bits.data?.map((bit) => (
              <li key={bit.id}>
                <img src={`/api/blobs/${bit.picture}`} alt="" />
                <div>
                  <h2>{bit.name}</h2>
                  {bit.size_mm && <div>{bit.size_mm.map(mm).join(' x ')} mm as sculpted</div>}
                  {bit.stamp && (
                    <div>
                      a stamp; at 10 mm across its narrowest strokes are{' '}
                      {(10 * bit.stamp.narrowest).toFixed(2)} mm
                    </div>
                  )}
                  <div className="soft">
                    {bit.figure ? `of ${bit.figure}; ` : ''}
                    {bit.terms}
                  </div>
                  {bit.tags.length > 0 && <div className="soft">{bit.tags.join(', ')}</div>}
                  {page.data && bit.stamp && (
                    <Link to={`/figures/${page.data.id}/bring-in`}>Press it at Bring in</Link>
                  )}
                  {page.data && bit.size_mm && (
                    <button className="ruled" disabled={use.isPending} onClick={() => use.mutate(bit)}>
                      Put it in {page.data.name}
                    </button>
                  )}{' '}
                  <button className="plain" disabled={drop.isPending} onClick={() => drop.mutate(bit)}>
                    <u>take off the shelf</u>
                  </button>
                </div>
              </li>
            ))}
          </ul>
        </div>
      </main>
    </div>
  );
}

function Shelve({ page }: { page: FigurePage }) {
  const parts = page.build?.parts.map(({ facts }) => facts.part) ?? [];
  const [name, setName] = useState('');
  const [tags, setTags] = useState('');
  const client = useQueryClient();
  const shelve = useMutation({
    mutationFn: async (part: string) => {
      const body = { figure: page.id, part, name: name.trim() || part, tags: tags.split(',') };
      await dataOf<BitView>(api.POST('/api/bits', { body }));
      await client.invalidateQueries({ queryKey: ['bits'] });
    },
  });
  return (
    <div className="shelve">
      <TextField
        size="small"
        label="Name of the bit"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <TextField
        size="small"
        label="Tags, by commas"
        value={tags}
        onChange={(event) => setTags(event.target.value)}
      />
      {parts.map((part) => (
        <button className="ruled" key={part} disabled={shelve.isPending} onClick={() => shelve.mutate(part)}>
          {parts.length > 1 ? `Shelve ${part} of ${page.name}` : `Put ${page.name} here`}
        </button>
      ))}
      <ErrorLine says={shelve.error?.message} />
    </div>
  );
}
