import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import { LineMaterial } from 'three/examples/jsm/lines/LineMaterial.js';
import { LineSegments2 } from 'three/examples/jsm/lines/LineSegments2.js';
import { LineSegmentsGeometry } from 'three/examples/jsm/lines/LineSegmentsGeometry.js';

import type { Finding } from '../app/client';

const WIDTH = 1.8;
const BEHIND = 0.4;

/** What a finding is made of, as red lines: full where they are seen, faint where the skin hides them. */
export function Trouble({ lines, colour }: { lines: Finding['lines']; colour: string }) {
  const { size, invalidate } = useThree();
  const drawn = useMemo(() => {
    const geometry = new LineSegmentsGeometry().setPositions(lines.flat());
    const styles = [
      { depthTest: false, transparent: true, opacity: BEHIND },
      { depthTest: true, transparent: true, opacity: 1 },
    ];
    return styles.map((style, k) => {
      const segments = new LineSegments2(
        geometry,
        new LineMaterial({ color: colour, linewidth: WIDTH, ...style }),
      );
      segments.renderOrder = 2 + k;
      return segments;
    });
  }, [lines, colour]);
  useEffect(() => {
    for (const { material } of drawn) material.resolution.set(size.width, size.height);
    invalidate();
  }, [drawn, size, invalidate]);
  useEffect(
    () => () => {
      for (const { geometry, material } of drawn) {
        geometry.dispose();
        material.dispose();
      }
    },
    [drawn],
  );
  return drawn.map((segments) => <primitive key={segments.uuid} object={segments} />);
}
