import type { FigurePage } from '../app/client';

/** In which editions a remedy that changes the shape is to hold: all, unless another is said. */
export function HoldsIn({
  page,
  onlyHere,
  set,
}: {
  page: FigurePage;
  onlyHere: boolean;
  set: (onlyHere: boolean) => void;
}) {
  const looked = page.editions.find(({ id }) => id === page.looked);
  return (
    <fieldset className="holds-in">
      <legend>It then holds in</legend>
      <label>
        <input type="radio" name="holds-in" checked={!onlyHere} onChange={() => set(false)} /> all{' '}
        {page.editions.length} editions
      </label>
      <label>
        <input type="radio" name="holds-in" checked={onlyHere} onChange={() => set(true)} /> {looked?.name}{' '}
        alone
      </label>
    </fieldset>
  );
}
