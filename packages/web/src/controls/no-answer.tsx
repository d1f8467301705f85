/** Stands where an answer would: what went wrong, and the same question again. */
export function NoAnswer({
  answer: { error, isError, refetch },
  what,
}: {
  answer: { readonly error: Error | null; readonly isError: boolean; readonly refetch: () => unknown };
  what: string;
}) {
  if (!isError) return null;
  return (
    <p role="alert" className="py-1">
      <span className="text-quiet">
        {what} could not be measured: {error?.message}
      </span>{" "}
      <button className="text-accent cursor-pointer underline underline-offset-2" onClick={() => void refetch()}>
        Try again
      </button>
    </p>
  );
}
