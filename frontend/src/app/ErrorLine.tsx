/** What went wrong, said aloud when it comes; nothing where there is nothing. */
export function ErrorLine({ says }: { says: string | null | undefined }) {
  return says ? (
    <p className="error" role="alert">
      {says}
    </p>
  ) : null;
}
