/** A name that gives way in the middle, so that both its start and its end can be read. In a table it shows whole while its row has the focus. */
export function MiddleName({ name, tail = 14 }: { name: string; tail?: number }) {
  const cut = Math.max(0, name.length - tail);
  return (
    <span className="relative flex min-w-0 max-w-full" title={name}>
      <span className="sr-only">{name}</span>
      {/* An empty first part would lift the name off the line it stands on. */}
      {cut > 0 && (
        <span
          aria-hidden
          className="truncate whitespace-pre group-has-[:focus-visible]/row:overflow-visible group-has-[:focus-visible]/row:whitespace-normal group-has-[:focus-visible]/row:break-all"
        >
          {name.slice(0, cut)}
        </span>
      )}
      <span aria-hidden className="shrink-0 whitespace-pre">
        {name.slice(cut)}
      </span>
    </span>
  );
}
