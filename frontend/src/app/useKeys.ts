import { useLayoutEffect, useRef } from 'react';

const WRITING = 'input:not([type="range"]), textarea';
/** Letters find entries in lists. */
const CHOOSING = 'select, [role="listbox"], [role="combobox"], [role="dialog"]';

const ON_TOP = '[role="listbox"], [role="dialog"], [aria-expanded="true"]';

/** Runs the action of a pressed key, unless something is being written; keys as "a", "U" (with shift) or "ctrl+z". */
export function useKeys(actions: Record<string, () => void>): void {
  const latest = useRef(actions);
  useLayoutEffect(() => {
    latest.current = actions;
  });
  useLayoutEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      const held = event.ctrlKey || event.metaKey ? 'ctrl+' : '';
      // What was begun is left from its fields, too, but a list or a sheet that lies on top closes first.
      const leaves = event.key === 'Escape' && !target.closest(ON_TOP);
      if (!leaves && (target.closest(WRITING) || (!held && target.closest(CHOOSING)))) return;
      if (event.altKey) return;
      const action = latest.current[held + event.key];
      if (!action) return;
      event.preventDefault();
      action();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, []);
}
