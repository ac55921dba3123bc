import { clsx } from 'clsx';
import { ChevronDown } from 'lucide-react';
import { useMemo } from 'react';
import { SearchBox, searchIn } from './SearchChoice';

export type Option<Value extends string = string> = readonly [value: Value, name: string];

interface SelectProps<Value extends string> {
  readonly label: string;
  readonly value: Value | '';
  readonly onChange: (value: Value) => void;
  readonly options: readonly Option<Value>[];
  /** Further options under headings of their own. */
  readonly groups?: readonly (readonly [heading: string, options: readonly Option<Value>[]])[];
  /** Stands while nothing is chosen, and cannot be chosen itself. */
  readonly placeholder?: string;
  readonly invalid?: boolean;
  /** As low as a row of tools. */
  readonly low?: boolean;
  /** Gives the focus back once chosen, where keys belong to what stands beside it. */
  readonly passing?: boolean;
  readonly className?: string;
}

/** Longer lists are found in by typing. */
const mostFoldedOut = 24;

/** One of a list that folds out, or that is found by typing where it is long. */
export function Select<Value extends string>(props: SelectProps<Value>) {
  const { options, groups = [] } = props;
  const many = options.length + groups.reduce((sum, [, of]) => sum + of.length, 0) > mostFoldedOut;
  return many ? <LongSelect {...props} /> : <ShortSelect {...props} />;
}

const noGroups: NonNullable<SelectProps<string>['groups']> = [];

function LongSelect<Value extends string>({
  label,
  value,
  onChange,
  options,
  groups = noGroups as NonNullable<SelectProps<Value>['groups']>,
  placeholder,
  invalid = false,
  low = false,
  className,
}: SelectProps<Value>) {
  const items = useMemo(
    () => [
      ...options.map(([id, name]) => ({ id, name })),
      ...groups.flatMap(([group, of]) => of.map(([id, name]) => ({ id, name, group }))),
    ],
    [options, groups],
  );
  const search = useMemo(() => searchIn(items), [items]);
  return (
    <SearchBox
      label={label}
      value={items.find(({ id }) => id === value) ?? null}
      onChange={({ id }) => onChange(id)}
      search={search}
      placeholder={placeholder}
      invalid={invalid}
      low={low}
      className={className}
    />
  );
}

function ShortSelect<Value extends string>({
  label,
  value,
  onChange,
  options,
  groups = [],
  placeholder,
  invalid = false,
  low = false,
  passing = false,
  className,
}: SelectProps<Value>) {
  return (
    <span className={clsx('relative inline-flex min-w-0', className)}>
      <select
        aria-label={label}
        aria-invalid={invalid}
        value={value}
        onChange={(event) => {
          onChange(event.target.value as Value);
          if (passing) event.target.blur();
        }}
        className={clsx(
          'w-full min-w-0 appearance-none truncate border border-edge bg-ground pr-7 pl-2 text-sm aria-invalid:border-signal-text',
          low ? 'h-8' : 'h-9',
        )}
      >
        {placeholder !== undefined && (
          <option value="" disabled>
            {placeholder}
          </option>
        )}
        <Options of={options} />
        {groups.map(([heading, of]) => (
          <optgroup key={heading} label={heading}>
            <Options of={of} />
          </optgroup>
        ))}
      </select>
      <ChevronDown
        aria-hidden
        className="pointer-events-none absolute top-1/2 right-1.5 size-4 -translate-y-1/2 text-muted"
      />
    </span>
  );
}

function Options({ of }: { of: readonly Option[] }) {
  return of.map(([value, name]) => (
    <option key={value} value={value}>
      {name}
    </option>
  ));
}

/** A labelled one. */
export function SelectField<Value extends string>({ className, ...select }: SelectProps<Value>) {
  return (
    <div className={className}>
      <span aria-hidden className="mb-1 block text-xs text-muted">
        {select.label}
      </span>
      <Select {...select} className="w-full" />
    </div>
  );
}
