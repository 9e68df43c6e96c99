import { QueryClient } from '@tanstack/react-query';
import { expect, it } from 'vitest';

import { laterPage } from './laterPage';

const page = (changes: number, build: object | null) => ({ id: 3, changes, revision: changes, build });

it('keeps what a change left when an answer from before it comes late', async () => {
  const client = new QueryClient();
  client.setQueryDefaults(['figure'], { structuralSharing: laterPage });
  let answer: (page: unknown) => void = () => {};
  const asked = client.fetchQuery({
    queryKey: ['figure', 3],
    queryFn: () => new Promise((resolve) => (answer = resolve)),
  });
  client.setQueryData(['figure', 3], page(2, null));
  answer(page(1, {}));
  await asked;
  expect(client.getQueryData(['figure', 3])).toEqual(page(2, null));
});

it('takes the check of the same state, and does not lose it again', () => {
  expect(laterPage(page(2, null), page(2, { key: 'k' }))).toEqual(page(2, { key: 'k' }));
  expect(laterPage(page(2, { key: 'k' }), page(2, null))).toEqual(page(2, { key: 'k' }));
  expect(laterPage(page(2, { key: 'k' }), page(3, null))).toEqual(page(3, null));
});

it('never mixes up two figures', () => {
  const other = { ...page(1, null), id: 4 };
  expect(laterPage(page(5, {}), other)).toEqual(other);
});
