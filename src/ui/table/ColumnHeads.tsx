import { clsx } from 'clsx';

/** The names of a plain table's columns. */
export function ColumnHeads({
  names,
  figuresFrom = Infinity,
}: {
  readonly names: readonly string[];
  /** The first column of those that hold figures, which stand to the right. */
  readonly figuresFrom?: number;
}) {
  return (
    <thead>
      <tr className="border-b text-left text-xs text-muted">
        {names.map((name, at) => (
          <th
            key={at}
            scope="col"
            className={clsx('px-3 py-1.5 font-normal', at >= figuresFrom && 'text-right')}
          >
            {name}
          </th>
        ))}
      </tr>
    </thead>
  );
}
