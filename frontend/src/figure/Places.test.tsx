// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, Finding, SectionDrawing } from '../app/client';
import { Places } from './Places';
import type { Proposal } from './propose';
import { SideBySide, triable } from './SideBySide';

afterEach(cleanup);

const drawing: SectionDrawing = {
  beside: [],
  outlines: [],
  reach: 5,
  wall: null,
  film: null,
  at: [0, 0],
  across: [1, 0, 0],
  up: [0, 0, 1],
};

const cost = { says: '', resin_ml: null, money: null, print_seconds: null };
const steps = { does: 'add-steps' as const, steps: [] };
const overlap = (places: Finding['places'], count = places.length) =>
  ({
    code: 'overlapping-shells',
    places,
    count,
    remedies: [
      { label: 'Unite them', change: steps, cost },
      { label: 'Print it larger', change: { does: 'set-edition', edition: {} }, cost },
      { label: 'Leave them', change: steps, cost },
    ],
  }) as unknown as Finding;

describe('the places of a finding', () => {
  it('are a list to choose from, each with whether it shows', () => {
    const chosen = vi.fn();
    const places: Finding['places'] = [
      { point: [0, 0, 0], extent: 4, shows: true },
      { point: [1, 0, 0], extent: 0.5, shows: false },
      { point: [2, 0, 0] },
    ];
    render(<Places finding={overlap(places)} spot={1} choose={chosen} />);
    const rows = screen.getAllByRole('button');
    expect(rows.map((row) => row.textContent)).toEqual(['4.0 mmshows', '0.50 mmdoes not show', 'a place']);
    expect(rows.map((row) => row.getAttribute('aria-pressed'))).toEqual(['false', 'true', 'false']);
    fireEvent.click(screen.getByRole('button', { name: 'a place' }));
    expect(chosen).toHaveBeenCalledWith(2);
  });

  it('are no list when there is one, and say so when there are too many', () => {
    const one = { point: [0, 0, 0] as [number, number, number] };
    const { container, rerender } = render(<Places finding={overlap([one])} spot={0} choose={vi.fn()} />);
    expect(container.textContent).toBe('');
    const many = Array.from({ length: 100 }, () => one);
    rerender(<Places finding={overlap(many, 12_000)} spot={0} choose={vi.fn()} />);
    expect(container.textContent).toContain('Place 1 of 100, the widest');
  });
});

describe('all ways beside each other', () => {
  it('tries what changes the surface, and tells what came of each or why not', async () => {
    const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
    const tried: Proposal['tried'] = {
      parts: [],
      size_mm: [1, 1, 1],
      ml: 0,
      triangles: 0,
      said: 'Mended exactly.',
    };
    const asked = (remedy: number) => ({
      queryKey: ['tried', remedy],
      staleTime: Infinity,
      queryFn: (): Promise<Proposal> =>
        remedy
          ? Promise.reject(new Error('The trial was stopped.'))
          : Promise.resolve({ tried, drawing, said: tried.said }),
    });
    const finding = overlap([]);
    expect(triable(finding)).toEqual([0, 2]);
    render(
      <QueryClientProvider client={client}>
        <SideBySide
          build={{} as BuildRecord}
          finding={finding}
          drawing={drawing}
          asked={asked}
          chosen={2}
          choose={vi.fn()}
        />
      </QueryClientProvider>,
    );
    expect(await screen.findByText('Mended exactly.')).toBeTruthy();
    expect(await screen.findByText('The trial was stopped.')).toBeTruthy();
    expect(screen.getByRole('button', { name: /Leave them/ }).getAttribute('aria-pressed')).toBe('true');
  });
});
