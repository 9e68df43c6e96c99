import { useEffect, useRef, useState } from 'react';

import styles from './finish.module.css';

const WIDE = 320;
/** Half the side, in pixels of the picture as it is shown, of the square whose mean colour is taken. */
const AROUND = 2;

/** Takes a colour from a photo: the mean about where it is clicked. The photo stays on this page. */
export function PhotoColour({ take }: { take: (colour: string) => void }) {
  const file = useRef<HTMLInputElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [picture, setPicture] = useState<ImageBitmap | null>(null);
  const [trouble, setTrouble] = useState('');
  useEffect(() => {
    const sheet = canvas.current;
    if (!picture || !sheet) return;
    sheet.width = WIDE;
    sheet.height = Math.max(Math.round((WIDE * picture.height) / picture.width), 1);
    sheet.getContext('2d', { willReadFrequently: true })?.drawImage(picture, 0, 0, sheet.width, sheet.height);
  }, [picture]);
  const open = (chosen: File | undefined) => {
    if (!chosen) return;
    setTrouble('');
    createImageBitmap(chosen).then(setPicture, () =>
      setTrouble(`${chosen.name} is no picture that can be shown: take a PNG or a JPEG.`),
    );
  };
  return (
    <>
      <button className="plain" onClick={() => file.current?.click()}>
        <u>from a photo</u>
      </button>
      <input
        ref={file}
        type="file"
        hidden
        aria-label="A photo to take a colour from"
        accept="image/png,image/jpeg"
        onChange={(event) => open(event.target.files?.[0])}
      />
      {trouble && (
        <span className="error" role="alert">
          {trouble}
        </span>
      )}
      {picture && (
        <canvas
          ref={canvas}
          className={styles.photo}
          role="img"
          aria-label="The photo: click where the colour is"
          onClick={({ nativeEvent: { offsetX, offsetY } }) => {
            const sheet = canvas.current;
            if (!sheet) return;
            // On a narrow page it is shown smaller than it is.
            const scale = sheet.width / sheet.clientWidth;
            const pixels = sheet
              .getContext('2d')
              ?.getImageData(
                offsetX * scale - AROUND,
                offsetY * scale - AROUND,
                2 * AROUND + 1,
                2 * AROUND + 1,
              ).data;
            if (pixels) take(meanColour(pixels));
          }}
        />
      )}
    </>
  );
}

/** The mean colour of pixels, each red, green, blue and opacity, as #rrggbb. */
export function meanColour(pixels: ArrayLike<number>): string {
  const sums = [0, 0, 0];
  const count = pixels.length / 4;
  for (let k = 0; k < pixels.length; k++) if (k % 4 < 3) sums[k % 4] = (sums[k % 4] ?? 0) + (pixels[k] ?? 0);
  return `#${sums
    .map((sum) =>
      Math.round(sum / count)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
}
