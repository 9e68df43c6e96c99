import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { api, dataOf, type LearntView } from '../../app/client';
import { ChoiceField, NumberField, numberIn } from '../Fields';
import { CouponPicture, type Feature } from './CouponPicture';
import { CouponPrinter } from './CouponPrinter';

export type Coupon = LearntView['coupons'][number];
export type CouponKind = Coupon['coupon'];
const KINDS: Record<CouponKind, string> = {
  fit: 'ladder of gaps',
  measure: 'block to measure',
  walls: 'walls and pins',
};
const ASKED: Record<'fit' | 'walls', [string, string][]> = {
  fit: [
    ['press', 'Pressed in from a gap of, mm'],
    ['slide', 'Slides from a gap of, mm'],
    ['free', 'Turns from a gap of, mm'],
  ],
  walls: [
    ['wall', 'Thinnest whole wall, mm'],
    ['pin', 'Thinnest whole pin, mm'],
  ],
};
const FITS = { press: 'pressed in by hand', slide: 'slides', free: 'turns freely' } as const;

/** Coupons to print for a setting, and what was read from them: ticked on their picture, or entered. */
export function Coupons({ told, keep }: { told: LearntView; keep: (next: LearntView) => void }) {
  const { setting, coupons } = told;
  const [kind, setKind] = useState<CouponKind>('fit');
  const [fit, setFit] = useState<keyof typeof FITS>('press');
  const [values, setValues] = useState<Record<string, string>>({});
  const features = useQuery({
    queryKey: ['coupon', setting, kind],
    queryFn: () =>
      dataOf<Feature[]>(
        api.GET('/api/settings/{setting}/coupons/{kind}', { params: { path: { setting, kind } } }),
      ),
    staleTime: Infinity,
  });
  const set = useMutation({
    mutationFn: (next: Coupon[]) =>
      dataOf<LearntView>(
        api.PUT('/api/settings/{setting}/coupons', { params: { path: { setting } }, body: next }),
      ),
    onSuccess: keep,
  });
  const asked =
    kind === 'measure'
      ? (features.data ?? []).map(({ name, mm }): [string, string] => [
          name,
          `${name}, drawn ${mm.toFixed(1)} mm`,
        ])
      : ASKED[kind];
  const read = asked.flatMap(([name]): [string, number][] => {
    const value = numberIn(values[name] ?? '');
    return value === null ? [] : [[name, value]];
  });
  const coupon = (
    kind === 'measure'
      ? { coupon: kind, setting, lengths: Object.fromEntries(read) }
      : { coupon: kind, setting, ...Object.fromEntries(read) }
  ) as Coupon;
  const enter = (name: string, value: number) =>
    setValues((before) => ({ ...before, [name]: String(Number(value.toFixed(3))) }));
  const entered = (name: string, value: number) =>
    Math.abs((numberIn(values[name] ?? '') ?? -1) - value) < 1e-6;
  const choose = ({ kind: of, gap, mm }: Feature) =>
    /hole/.test(of) ? enter(fit, gap) : enter(of === 'wall' ? 'wall' : 'pin', mm);
  const chosen = ({ kind: of, gap, mm, name }: Feature) =>
    kind === 'measure'
      ? name in values
      : /hole/.test(of)
        ? Object.keys(FITS).some((one) => entered(one, gap))
        : entered(of, mm);
  return (
    <>
      <h3>Coupons</h3>
      <div className="fields two">
        <ChoiceField
          label="Coupon"
          value={kind}
          options={KINDS}
          change={(next) => {
            setKind(next);
            setValues({});
          }}
        />
        <a href={`/api/settings/${setting}/coupons/${kind}.stl`}>to print, STL</a>
      </div>
      {kind === 'fit' && (
        <>
          <p className="soft">Touch on the picture the least gap at which the pegs go in so.</p>
          <div className="fields">
            <ChoiceField label="How pegs go in" value={fit} options={FITS} change={setFit} />
          </div>
        </>
      )}
      {kind === 'walls' && (
        <p className="soft">Touch the thinnest wall and the thinnest pin that came out whole.</p>
      )}
      <CouponPicture
        kind={kind}
        features={features.data ?? []}
        chosen={chosen}
        {...(kind === 'measure' ? {} : { choose })}
      />
      <div className="fields two">
        {asked.map(([name, label]) => (
          <NumberField
            key={name}
            label={label}
            text={values[name] ?? ''}
            change={(text) => setValues({ ...values, [name]: text })}
            optional
          />
        ))}
      </div>
      <CouponPrinter key={kind} setting={setting} kind={kind} read={(told) => setValues(textOf(told))} />
      <ErrorLine says={set.error?.message} />
      <p>
        <button
          className="ruled"
          disabled={read.length === 0 || set.isPending}
          onClick={() => set.mutate([...coupons, coupon])}
        >
          Learn from it
        </button>
      </p>
      <ul className="plain-list" aria-label="Coupons that were told">
        {coupons.map((one, k) => (
          <li key={k}>
            {KINDS[one.coupon]}:{' '}
            {valuesOf(one)
              .map(([name, value]) => `${name} ${value}`)
              .join(', ')}{' '}
            <button
              className="plain"
              aria-label={`Leave out coupon ${k + 1}`}
              onClick={() => set.mutate(coupons.filter((other) => other !== one))}
            >
              <u>leave out</u>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

const valuesOf = (coupon: Coupon): [string, number][] =>
  coupon.coupon === 'measure'
    ? Object.entries(coupon.lengths)
    : Object.entries(coupon).filter(
        (pair): pair is [string, number] => typeof pair[1] === 'number' && pair[0] !== 'proof',
      );

const textOf = (coupon: Coupon) =>
  Object.fromEntries(valuesOf(coupon).map(([name, value]) => [name, String(value)]));
