// @vitest-environment jsdom
import { act, cleanup, render } from '@testing-library/react';
import { afterEach, expect, it } from 'vitest';

import type { PartRecord } from '../app/client';
import { createValue } from '../app/value';
import { Calipers } from './Head';

const facts = { size_mm: [30, 20, 75], factor: 2, triangles: 1_200 } as unknown as PartRecord['facts'];

function shown(meant: 'wall' | 'nothing' | string[]) {
  const pointed = createValue<number | null>(null);
  const { container } = render(
    <Calipers facts={facts} pointed={pointed} meant={meant} stale={false} setup={undefined} />,
  );
  return (value: number | null) => {
    act(() => pointed.set(value));
    return container.textContent;
  };
}

afterEach(cleanup);

it('tells a wall at print size, or the region by its name, and nothing where the pointer means nothing', () => {
  const wall = shown('wall');
  expect(wall(null)).not.toContain('under the pointer');
  expect(wall(0.35)).toContain('wall under the pointer 0.70');
  const region = shown(['robe', 'feather']);
  expect(region(1)).toContain('under the pointer feather');
  expect(region(1)).not.toContain('wall');
  // What no region holds stands for none of them.
  expect(region(2_000)).not.toContain('under the pointer');
  expect(shown('nothing')(0.35)).not.toContain('under the pointer');
});
