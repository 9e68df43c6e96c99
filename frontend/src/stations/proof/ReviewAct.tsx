import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { api, dataOf, sendAnswer, type KeptReview } from '../../app/client';
import { count, moment } from '../../app/units';
import type { Sheet } from '../../figure/sheet';

/** Asks somebody else to look: a page of its own goes out, and the answer comes back as a file. */
export function ReviewAct({ page, build }: Pick<Sheet, 'page' | 'build'>) {
  const client = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const key = ['reviews', page.id];
  const path = { number: page.id };
  const reviews = useQuery({
    queryKey: key,
    queryFn: () => dataOf<KeptReview[]>(api.GET('/api/figures/{number}/reviews', { params: { path } })),
  });
  const keep = useMutation({
    mutationFn: (answer: File) => sendAnswer(page.id, page.looked, answer),
    onSuccess: (kept) => client.setQueryData(key, kept),
  });
  const forget = useMutation({
    mutationFn: (place: number) =>
      dataOf<KeptReview[]>(
        api.DELETE('/api/figures/{number}/reviews/{place}', { params: { path: { ...path, place } } }),
      ),
    onSuccess: (kept) => client.setQueryData(key, kept),
  });
  const error = keep.error ?? forget.error ?? reviews.error;
  return (
    <>
      <p>
        <a href={`/api/figures/${page.id}/review.html?edition=${page.looked}`}>
          the figure as one page to send, HTML
        </a>
      </p>
      <p className="soft">
        It needs nothing else and tells nobody anything: whoever opens it turns the figure, sets pins, says
        yes or no, and sends back a small file. Freeze a version first, so that the answer keeps its place.
      </p>
      <ErrorLine says={error?.message} />
      <p>
        <button className="ruled" disabled={keep.isPending} onClick={() => file.current?.click()}>
          Take in an answer
        </button>
        <input
          ref={file}
          type="file"
          hidden
          aria-label="An answer that came back"
          accept="application/json,.json"
          onChange={(event) => {
            const answer = event.target.files?.[0];
            if (answer) keep.mutate(answer);
            event.target.value = '';
          }}
        />
      </p>
      <ul className="plain-list" aria-label="Answers">
        {reviews.data?.map(({ review, came, version }, k) => (
          <li key={came}>
            <b>{review.verdict}</b>, {review.by || 'somebody'} of{' '}
            {version ? `version ${version}` : 'no version'}
            {review.build === build.key ? ', which is this very figure' : ''}, {moment(came)}
            {review.words && <p className="why">{review.words}</p>}
            {review.pins.length > 0 && (
              <ol aria-label={count(review.pins.length, 'pin')}>
                {review.pins.map((pin, n) => (
                  <li key={n}>{pin.says || 'a place without words'}</li>
                ))}
              </ol>
            )}
            <button
              className="plain"
              aria-label={`Forget answer ${k + 1}`}
              disabled={forget.isPending}
              onClick={() => forget.mutate(k)}
            >
              <u>forget it</u>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}
