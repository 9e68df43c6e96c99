/// <reference types="vite/client" />
import { describe, expect, it } from 'vitest';

import { firstLight } from './light';
import css from './sheet.css?raw';
import { CHARTS } from './theme';

function luminance(hex: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((at) => {
    const value = parseInt(hex.slice(at, at + 2), 16) / 255;
    return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

function contrast(one: string, other: string): number {
  const [low = 0, high = 0] = [luminance(one), luminance(other)].sort((a, b) => a - b);
  return (high + 0.05) / (low + 0.05);
}

function variables(selector: string): Record<string, string> {
  const block = css.slice(css.indexOf(selector)).split('}')[0] ?? '';
  return Object.fromEntries(
    [...block.matchAll(/--([\w-]+): (#[0-9a-f]+);/g)].map(([, name, value]) => [name, value]),
  );
}

describe.each(['day', 'night'] as const)('the %s chart', (light) => {
  const chart = CHARTS[light];

  it('can be read: text and marks stand out from the paper, and from every tint they are written on', () => {
    for (const text of [chart.ink, chart.soft, chart.mark])
      expect(contrast(text, chart.paper)).toBeGreaterThan(4.5);
    [...chart.shoals, chart.stone].forEach((tint, k) =>
      expect(contrast(chart.inks[k] ?? '', tint), tint).toBeGreaterThan(4.5),
    );
  });

  it('tells depths by lightness alone, the thinnest standing out most from the paper', () => {
    const steps = chart.shoals.map((tint) => contrast(tint, chart.paper));
    expect([...steps].sort((a, b) => b - a)).toEqual(steps);
    for (let k = 1; k < steps.length; k++) expect((steps[k - 1] ?? 0) / (steps[k] ?? 1)).toBeGreaterThan(1.2);
  });

  it('has the same colours in the style sheet', () => {
    const said = variables(light === 'day' ? ':root {' : ":root[data-light='night'] {");
    expect(said).toMatchObject({ paper: chart.paper, ink: chart.ink, soft: chart.soft, mark: chart.mark });
  });
});

describe('the first light', () => {
  it('is what was chosen, else what the machine is set to, whatever else was kept', () => {
    expect(firstLight('night', false)).toBe('night');
    expect(firstLight('day', true)).toBe('day');
    expect(firstLight(null, true)).toBe('night');
    expect(firstLight('noon', false)).toBe('day');
  });
});
