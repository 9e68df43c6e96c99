import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { ErrorLine } from '../../app/ErrorLine';
import { api, dataOf, type LearntView } from '../../app/client';
import type { Sheet } from '../../figure/sheet';
import { Coupons } from './Coupons';
import styles from './proof.module.css';

type Learnt = LearntView['learnt'][number];

/** What proofs and coupons have taught of the setting, taken over value by value; and coupons to print and tell. */
export function LearntAct({ page }: Pick<Sheet, 'page'>) {
  const client = useQueryClient();
  const setting = page.edition.setting ?? '';
  const key = ['proofs', 'learnt', setting];
  const path = { setting };
  const learnt = useQuery({
    queryKey: key,
    queryFn: () => dataOf<LearntView>(api.GET('/api/settings/{setting}/learnt', { params: { path } })),
  });
  const take = useMutation({
    mutationFn: (wanted: string) =>
      dataOf<LearntView>(
        api.POST('/api/settings/{setting}/learnt', { params: { path }, body: { path: wanted } }),
      ),
    onSuccess: async (told) => {
      client.setQueryData(key, told);
      await client.invalidateQueries({ queryKey: ['bench'] });
      await client.invalidateQueries({ queryKey: ['figure', page.id] });
    },
  });
  const told = learnt.data;
  const error = learnt.error?.message ?? take.error?.message;
  return (
    <>
      <ErrorLine says={error} />
      {told && (
        <>
          <p className="soft">
            {told.setting_name}. Ranges hold nine times in ten; nothing is taken over before you say so.
          </p>
          {told.learnt.length === 0 && <p>Nothing yet: say how proofs came out, or what coupons tell.</p>}
          <table className={`limbs ${styles.learnt}`}>
            <tbody>
              {told.learnt.map((one) => (
                <tr key={one.title + one.kind}>
                  <th scope="row">
                    {one.title}
                    <br />
                    <span className="soft">{from(one)}</span>
                  </th>
                  <td>
                    <b>
                      {one.kind === 'value' ? '' : `${one.kind} `}
                      {shown(one, one.value)}
                    </b>
                    <br />
                    <span className="soft">{range(one)}</span>
                  </td>
                  <td>
                    {one.path && !isTaken(one) ? (
                      <button
                        className="plain"
                        disabled={take.isPending}
                        onClick={() => take.mutate(one.path)}
                      >
                        <u>take over</u> <span className="soft">now {shown(one, one.now ?? 0)}</span>
                      </button>
                    ) : (
                      <span className="soft">{one.path ? 'taken over' : one.says}</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {told.rates.length > 0 && (
            <>
              <h3>How right the checks were</h3>
              <table className="limbs">
                <thead>
                  <tr>
                    <th scope="col">finding</th>
                    <th scope="col">told</th>
                    <th scope="col">came true</th>
                    <th scope="col">came unsaid</th>
                  </tr>
                </thead>
                <tbody>
                  {told.rates.map((rate) => (
                    <tr key={rate.code}>
                      <th scope="row">{rate.code}</th>
                      <td>{rate.told}</td>
                      <td>{rate.came_true}</td>
                      <td>{rate.unsaid}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </>
          )}
          <Coupons key={told.coupons.length} told={told} keep={(next) => client.setQueryData(key, next)} />
        </>
      )}
    </>
  );
}

const shown = ({ unit }: Learnt, value: number): string =>
  unit === 'share'
    ? `${(100 * value).toFixed(value < 0.05 ? 2 : 0)} %`
    : unit === 'times'
      ? `${value.toFixed(3)} times`
      : `${value.toFixed(unit === 'N' ? 1 : 3)} ${unit}`;

const range = (one: Learnt): string =>
  one.low == null || one.high == null ? '' : `${shown(one, one.low)} to ${shown(one, one.high)}`;

/** Whether the bench has a value as it was learnt, as it is rounded there. */
const isTaken = (one: Learnt): boolean => one.now != null && Math.abs(one.now - one.value) < 6e-5;

function from({ count, proofs, outliers }: Learnt): string {
  const said = proofs.length
    ? `from ${proofs.length > 1 ? 'proofs' : 'proof'} ${proofs.join(', ')}`
    : `from ${count > 1 ? `${count} readings of coupons` : 'a coupon'}`;
  return outliers.length ? `${said}; left out: ${outliers.join('; ')}` : said;
}
