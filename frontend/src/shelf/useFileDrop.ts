import { useEffect, useRef, useState } from 'react';

/** Takes the first file dropped anywhere on the window; true while one is held over it. */
export function useFileDrop(take: (file: File) => void): boolean {
  const [over, setOver] = useState(false);
  const latest = useRef(take);
  useEffect(() => {
    latest.current = take;
  });
  useEffect(() => {
    // Entering a child leaves its parent: the window is left only when as many are left as were entered.
    let depth = 0;
    const holdsFile = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;
    const enter = (event: DragEvent) => {
      if (!holdsFile(event)) return;
      depth += 1;
      setOver(true);
    };
    const leave = (event: DragEvent) => {
      if (!holdsFile(event)) return;
      depth -= 1;
      if (depth <= 0) setOver(false);
    };
    const allow = (event: DragEvent) => holdsFile(event) && event.preventDefault();
    const drop = (event: DragEvent) => {
      if (!holdsFile(event)) return;
      event.preventDefault();
      depth = 0;
      setOver(false);
      const file = event.dataTransfer?.files[0];
      if (file) latest.current(file);
    };
    window.addEventListener('dragenter', enter);
    window.addEventListener('dragleave', leave);
    window.addEventListener('dragover', allow);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragenter', enter);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('dragover', allow);
      window.removeEventListener('drop', drop);
    };
  }, []);
  return over;
}
