/** Says what is being waited for. */
export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="p-6 text-soft">
      {what} …
    </p>
  );
}
