import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { ErrorLine } from '../app/ErrorLine';
import { api, dataOf, type StockEntered, type StockView } from '../app/client';
import { FilePicker } from '../app/bringIn';
import { count, day, money, signed } from '../app/units';
import { SheetHead } from '../shelf/SheetHead';
import { EnterStock } from './EnterStock';
import styles from './stock.module.css';

const KEY = ['stock'];
const PAGE = 60;

/** What there is of materials, paints and bought parts, by a ledger whose sum it is. */
export default function StockPage() {
  const client = useQueryClient();
  const [chosen, choose] = useState('');
  const [all, setAll] = useState(false);
  const [struck, setStruck] = useState<number[]>([]);
  const stock = useQuery({ queryKey: KEY, queryFn: () => dataOf<StockView>(api.GET('/api/stock')) });
  const keep = (after: StockView) => {
    client.setQueryData(KEY, after);
    // Paints that run short stand among the findings of figures, and materials in the plan.
    for (const key of ['figure', 'planned']) void client.invalidateQueries({ queryKey: [key] });
  };
  const enter = useMutation({
    mutationFn: (asked: () => Promise<StockEntered>) => asked(),
    onSuccess: ({ stock: after }) => keep(after),
  });
  const strike = useMutation({
    mutationFn: (asked: () => Promise<StockView>) => asked(),
    onSuccess: keep,
  });
  const path = (line: number) => ({ params: { path: { line } } });
  const takeOut = (line: number) => {
    strike.mutate(() => dataOf<StockView>(api.DELETE('/api/stock/{line}', path(line))));
    setStruck([...struck, line]);
  };
  const putBack = () => {
    const last = struck.at(-1);
    if (last === undefined) return;
    strike.mutate(() => dataOf<StockView>(api.POST('/api/stock/{line}/put-back', path(last))));
    setStruck(struck.slice(0, -1));
  };
  const error = enter.error?.message ?? strike.error?.message ?? stock.error?.message;
  const standing = stock.data?.standing ?? [];
  const names = new Map(standing.map(({ good }) => [good.key, good]));
  const lines = (stock.data?.lines ?? []).filter(({ entry }) => !chosen || entry.good === chosen);
  const shown = all ? lines : lines.slice(0, PAGE);
  return (
    <div className="page">
      <SheetHead name="stock">
        {struck.length > 0 && (
          <button className="plain" onClick={putBack}>
            <u>put back what was struck out</u>
          </button>
        )}
        <Link to="/plates-and-days">Plates and days</Link>
        <a href="/api/stock/ledger.csv">the ledger, CSV</a>
        <FilePicker
          says="Read a ledger, CSV"
          accept=".csv,text/csv"
          take={(file) =>
            enter.mutate(() =>
              dataOf<StockEntered>(
                api.POST('/api/stock/ledger.csv', {
                  body: file as unknown as string,
                  bodySerializer: (body) => body,
                  headers: { 'Content-Type': 'application/octet-stream' },
                }),
              ),
            )
          }
        />
      </SheetHead>
      <main className={`sheet ${styles.sheet}`} aria-busy={stock.isPending}>
        <ErrorLine says={error} />
        {enter.data && (
          <p role="status" className="soft">
            {enter.data.numbers.length
              ? `${count(enter.data.numbers.length, 'line')} entered.`
              : 'Every line of it is there already; nothing was entered.'}{' '}
            {enter.data.numbers.length === 1 && (
              <button
                className="plain"
                onClick={() => {
                  const [number] = enter.data.numbers;
                  if (number !== undefined) takeOut(number);
                  enter.reset();
                }}
              >
                <u>undo</u>
              </button>
            )}
          </p>
        )}
        <div className={styles.beside}>
          <section aria-label="What is there">
            <h2>What is there</h2>
            <table className="limbs">
              <thead>
                <tr>
                  <th scope="col">good</th>
                  <th scope="col">there</th>
                  <th scope="col">worth</th>
                  <th scope="col">last counted</th>
                </tr>
              </thead>
              <tbody>
                {standing.map(({ good, there, counted, worth }) => (
                  <tr key={good.key} data-chosen={good.key === chosen || undefined}>
                    <th scope="row">
                      <button
                        className="plain"
                        aria-pressed={good.key === chosen}
                        onClick={() => choose(good.key === chosen ? '' : good.key)}
                      >
                        {good.name}
                      </button>
                    </th>
                    <td className={there !== null && there < 0 ? styles.grave : undefined}>
                      {there === null ? (
                        <span className="soft">not counted yet</span>
                      ) : (
                        `${amount(there, good.unit)} ${good.unit}`
                      )}
                    </td>
                    <td>{there === null ? '' : money(worth)}</td>
                    <td className="soft">{counted ? day(counted) : ''}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
          <section aria-label="The ledger">
            <EnterStock
              key={chosen}
              goods={standing.map(({ good }) => good)}
              chosen={chosen}
              busy={enter.isPending}
              enter={(body) => enter.mutate(() => dataOf<StockEntered>(api.POST('/api/stock', { body })))}
            />
            <h2>{chosen ? `Ledger of ${names.get(chosen)?.name ?? chosen}` : 'Ledger'}</h2>
            {lines.length === 0 && (
              <p className="soft">
                Nothing yet: count what is there first. Prints that end are taken off by themselves.
              </p>
            )}
            <table className="limbs">
              <tbody>
                {shown.map(({ number, entry }, k) => {
                  const good = names.get(entry.good);
                  return (
                    <tr key={number ?? `run ${k}`}>
                      <td className="soft">{day(entry.day)}</td>
                      <th scope="row">{good?.name ?? entry.good}</th>
                      <td>
                        {entry.kind}
                        {entry.says && <span className="soft"> {entry.says}</span>}
                      </td>
                      <td className={styles.amount}>
                        {signed(entry.amount, good?.unit === 'pieces' ? 0 : 1)} {good?.unit}
                      </td>
                      <td>
                        {number !== null && (
                          <button
                            className="plain"
                            disabled={strike.isPending}
                            aria-label={`Strike out: ${good?.name ?? entry.good}, ${entry.kind}`}
                            onClick={() => takeOut(number)}
                          >
                            <u>strike out</u>
                          </button>
                        )}
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
            {lines.length > PAGE && !all && (
              <p>
                <button className="plain" onClick={() => setAll(true)}>
                  <u>all {count(lines.length, 'line')}</u>
                </button>
              </p>
            )}
          </section>
        </div>
      </main>
    </div>
  );
}

function amount(there: number, unit: string): string {
  return there.toFixed(unit === 'pieces' ? 0 : there < 100 ? 1 : 0);
}
