import TextField from '@mui/material/TextField';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { api, dataOf, type CouponPrint } from '../../app/client';
import type { Coupon, CouponKind } from './Coupons';
import { isUnderWay, LOOKS_MS, STAND_IN } from './printing';

/** Prints a coupon on a printer that speaks the printer protocol, and hands on what is read from it. */
export function CouponPrinter({
  setting,
  kind,
  read,
}: {
  setting: string;
  kind: CouponKind;
  read: (told: Coupon) => void;
}) {
  const [printer, setPrinter] = useState(STAND_IN);
  const path = { setting, kind };
  const send = useMutation({
    mutationFn: () =>
      dataOf<CouponPrint>(
        api.POST('/api/settings/{setting}/coupons/{kind}/print', { params: { path }, body: { printer } }),
      ),
  });
  const address = send.data?.address ?? '';
  const print = useQuery({
    queryKey: ['coupon print', address],
    queryFn: () =>
      dataOf<CouponPrint>(
        api.PUT('/api/settings/{setting}/coupons/{kind}/print', { params: { path }, body: { address } }),
      ),
    enabled: address !== '',
    refetchInterval: ({ state }) =>
      isUnderWay(state.data?.state ?? 'waiting') && !state.error ? LOOKS_MS : false,
    retry: false,
  });
  const told = print.data?.read;
  useEffect(() => {
    if (told) read(told);
    // What was read is handed on once; whoever hears of it is made anew each time.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [told]);
  const error = send.error?.message ?? print.error?.message;
  const now = print.data ?? send.data;
  return (
    <details>
      <summary>Print it on a printer on this machine, and have it read there</summary>
      <div className="fields two">
        <TextField
          size="small"
          label="Address of the printer"
          value={printer}
          onChange={(event) => setPrinter(event.target.value)}
        />
        <button
          className="ruled"
          disabled={send.isPending || !printer.trim() || (now ? isUnderWay(now.state) && !error : false)}
          onClick={() => send.mutate()}
        >
          {send.isPending ? 'Sending …' : 'Print the coupon'}
        </button>
      </div>
      <ErrorLine says={error} />
      {now && !error && (
        <p role="status" className="soft">
          {now.read
            ? 'It is printed, and what was read is entered above: learn from it if it is as it should be.'
            : now.state === 'failed'
              ? `The printer could not print it: ${now.error}`
              : `layer ${now.layer} of ${now.layers || 'some'}`}
        </p>
      )}
    </details>
  );
}
