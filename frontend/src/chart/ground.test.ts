import { expect, test } from 'vitest';
import { Box3, Vector3 } from 'three';

import { groundUnder } from './ground';

test('the ground lies under the lowest of all that is shown, about all of it', () => {
  const boxes = [
    new Box3(new Vector3(-1, -1, 0), new Vector3(1, 1, 9)),
    new Box3(new Vector3(0, 0, -2), new Vector3(9, 1, 1)),
  ];
  const { corners, middle } = groundUnder(boxes);
  expect([...corners, ...middle].every(([, , z]) => z === -2)).toBe(true);
  expect(Math.min(...corners.map(([x]) => x))).toBeLessThan(-1);
  expect(Math.max(...corners.map(([x]) => x))).toBeGreaterThan(9);
  expect(boxes[0]?.max.x).toBe(1);
});
