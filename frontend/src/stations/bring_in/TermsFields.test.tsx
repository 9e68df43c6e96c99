// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { useState } from 'react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { StepOf, TermsList } from '../../app/client';
import { heldIn, TermsFields, writtenOut, type Held } from './TermsFields';

const sendEvidence = vi.hoisted(() => vi.fn());
vi.mock('../../app/client', async (original) => ({ ...(await original<object>()), sendEvidence }));

const list = {
  terms: [
    { id: 'own-work', name: 'my own work', line: 'Nobody else has a say.' },
    { id: 'share-alike', name: 'share alike', line: 'Share it as you got it.' },
  ],
} as unknown as TermsList;
let last: Held;

function Fields({ begin }: { begin: Held }) {
  const [held, change] = useState(begin);
  const keep = (next: Held) => {
    last = next;
    change(next);
  };
  return <TermsFields held={held} change={keep} list={list} />;
}
const show = (over: Partial<Held> = {}) => {
  last = { ...heldIn(undefined), ...over };
  render(<Fields begin={last} />);
};
const choose = (label: string, name: string) => {
  fireEvent.mouseDown(screen.getByRole('combobox', { name: label }));
  fireEvent.click(screen.getByRole('option', { name }));
};
const file = new File(['%PDF'], 'letter.pdf');

beforeEach(() => sendEvidence.mockReset());
afterEach(cleanup);

it('asks for no evidence of what is said of nothing, or of one’s own work', () => {
  show();
  expect(screen.queryByLabelText('Evidence, in words')).toBeNull();
  choose('Under which terms', 'my own work');
  expect(screen.getByText('Nobody else has a say.')).toBeTruthy();
  expect(screen.queryByLabelText('Evidence, in words')).toBeNull();
  choose('Under which terms', 'share alike');
  expect(screen.getByLabelText('Evidence, in words')).toBeTruthy();
});

it('writes out terms of somebody’s own, question by question, none answered by itself', () => {
  show();
  choose('Under which terms', 'other terms, written out here');
  expect(writtenOut(last).own).toMatchObject({
    name: 'terms of its maker',
    share: 'unanswered',
    sell: 'unanswered',
    alter: 'unanswered',
    name_maker: 'unanswered',
    alike: false,
  });
  fireEvent.change(screen.getByLabelText('What they are called'), { target: { value: 'club terms' } });
  choose('May it be sold?', 'no');
  choose('Must the maker be named?', 'yes');
  fireEvent.click(screen.getByRole('checkbox'));
  expect(writtenOut(last)).toMatchObject({
    terms: null,
    own: { name: 'club terms', sell: 'no', name_maker: 'yes', share: 'unanswered', alike: true },
  });
  // Terms that ship with Ulvet put nothing of that into the record.
  choose('Under which terms', 'share alike');
  expect(writtenOut(last)).toMatchObject({ terms: 'share-alike', own: null });
});

it('keeps a file as evidence, and says why one was not kept, which loses nothing', async () => {
  show({ terms: 'share-alike', proof: 'by letter' });
  const input = screen.getByLabelText('A file as evidence');
  sendEvidence.mockRejectedValueOnce(new Error('letter.pdf is no PDF: nothing was kept.'));
  fireEvent.change(input, { target: { files: [file] } });
  expect((await screen.findByRole('alert')).textContent).toContain('nothing was kept');
  expect(last).toMatchObject({ proof: 'by letter', file: null });
  sendEvidence.mockResolvedValueOnce({ sha256: 'f'.repeat(64), file_name: 'letter.pdf' });
  fireEvent.change(input, { target: { files: [file] } });
  const link = await screen.findByRole('link', { name: 'letter.pdf' });
  expect(link.getAttribute('href')).toBe(`/api/evidence/${'f'.repeat(64)}`);
  await waitFor(() => expect(screen.queryByRole('alert')).toBeNull());
  expect(writtenOut(last)).toMatchObject({ proof_file: 'f'.repeat(64), proof_file_name: 'letter.pdf' });
  fireEvent.change(input, { target: { files: [] } });
  expect(sendEvidence).toHaveBeenCalledTimes(2);
});

it('takes up what a credit says, and writes out the same', () => {
  const credit = {
    terms: null,
    own: { id: 'own', line: '', name: 'club terms', alike: true, share: 'yes', sell: 'no' },
    proof: 'a letter',
    proof_link: 'kept as text',
    proof_file: 'a'.repeat(64),
    proof_file_name: 'letter.pdf',
    dated: '2026-11-02',
  } as unknown as StepOf<'credit'>;
  const held = heldIn(credit);
  expect(held.own).toEqual({ share: 'yes', sell: 'no', alter: 'unanswered', name_maker: 'unanswered' });
  expect(writtenOut(held)).toEqual({ ...credit, own: { ...credit.own, ...held.own } });
});
