import { expect, it } from 'vitest';

import type { BuildRecord, Finding } from '../app/client';
import { atSpot, firstOpen, firstSays, shownPart, toldOf } from './shown';

const build = {
  parts: [{ facts: { part: 'body' } }, { facts: { part: 'crest' } }],
} as unknown as BuildRecord;
const named = (part: ReturnType<typeof shownPart>) => part?.facts.part;

it('draws the part that was asked for, else that of the finding, else the first', () => {
  expect(named(shownPart(build, 'crest', 'body'))).toBe('crest');
  expect(named(shownPart(build, null, 'crest'))).toBe('crest');
  expect(named(shownPart(build, null, undefined))).toBe('body');
  // What is gone since is no reason to draw nothing.
  expect(named(shownPart(build, 'gone', 'gone too'))).toBe('body');
  expect(shownPart({ parts: [] } as unknown as BuildRecord, 'body', undefined)).toBeUndefined();
  expect(shownPart(null, 'body', 'body')).toBeUndefined();
});

it('puts one of the places of a finding in focus, and leaves it where that place is not there', () => {
  const finding = { where: { point: [0, 0, 0] }, places: [{ point: [0, 0, 0] }, { point: [1, 2, 3] }] };
  const at = (spot: number) => atSpot(finding as unknown as Finding, spot).where?.point;
  expect(at(1)).toEqual([1, 2, 3]);
  expect(at(7)).toEqual([0, 0, 0]);
});

it('opens at the station of the first finding, and at Gauge where nothing was found', () => {
  expect(firstOpen([{ station: 'mend' }, { station: 'gauge' }] as Finding[])).toBe('mend');
  expect(firstOpen([])).toBe('gauge');
  expect(firstOpen(undefined)).toBe('gauge');
});

it('tells what an undo did before it tells that an edition is gone', () => {
  expect(toldOf('', 'e2', 'e1')).toContain('is gone');
  expect(toldOf('', '', 'e1')).toBe('');
  expect(toldOf('', 'e1', 'e1')).toBe('');
  expect(toldOf('Taken back, of Small.', 'e2', 'e1')).toBe('Taken back, of Small.');
});

it('says that it is measuring only where nothing says so already', () => {
  expect(firstSays(false, false)).toContain('Measuring the figure');
  expect(firstSays(true, false)).toBe('');
  expect(firstSays(true, true)).toContain('coarsely');
});
