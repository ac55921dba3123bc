'use client';
import { clsx } from 'clsx';
import { useId, type ReactNode, type Ref } from 'react';

export const inputLook =
  'h-9 w-full border border-edge bg-ground px-2 text-sm placeholder:text-muted aria-invalid:border-signal-text';

/**
 * A typed figure as it is sent. Text that is no number stays text, for all that the type says: the server refuses it and
 * says which figure it was.
 */
export function figure(text: string): number {
  return text.trim() === '' || Number.isNaN(Number(text)) ? (text as unknown as number) : Number(text);
}

/** The same in another unit. */
export function figureAs(text: string, convert: (value: number) => number): number {
  const value: unknown = figure(text);
  return typeof value === 'number' ? convert(value) : (value as number);
}

/** The same where nothing typed means nothing known. */
export function figureOrNull(text: string): number | null {
  return text.trim() === '' ? null : figure(text);
}

interface FieldProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly invalid?: boolean;
  /** What is wrong with it: stands below. */
  readonly message?: string | null;
  /** Of the input, for who gives it the focus. */
  readonly ref?: Ref<HTMLInputElement>;
  readonly placeholder?: string;
  /** Written behind the figure. */
  readonly unit?: string;
  readonly className?: string;
}

/** What is wrong with a field, below it; nothing where it is sound. */
export function FieldMessage({ id, message }: { id?: string; message: string | null }) {
  return message ? (
    <span id={id} role="alert" className="mt-1 block max-w-72 text-xs text-signal-text">
      {message}
    </span>
  ) : null;
}

/** A labelled line of text. */
export function TextField({
  label,
  value,
  onChange,
  invalid = false,
  message = null,
  ref,
  placeholder,
  className,
  figures = false,
  focused = false,
  onEscape,
}: Omit<FieldProps, 'unit'> & {
  readonly figures?: boolean;
  /** Has the focus as soon as it is there. */
  readonly focused?: boolean;
  readonly onEscape?: () => void;
}) {
  const told = useId();
  return (
    <div className={className}>
      <label>
        <span className="mb-1 block text-xs text-muted">{label}</span>
        <input
          ref={ref}
          value={value}
          onChange={(event) => onChange(event.target.value)}
          aria-invalid={invalid || message !== null}
          aria-describedby={message === null ? undefined : told}
          placeholder={placeholder}
          spellCheck={false}
          autoFocus={focused}
          onKeyDown={(event) => {
            if (event.key === 'Escape') onEscape?.();
          }}
          className={clsx(inputLook, figures && 'figure')}
        />
      </label>
      <FieldMessage id={told} message={message} />
    </div>
  );
}

/** A labelled figure with its unit; what is typed stays as it is, also while it is no number yet. */
export function NumberField({
  label,
  value,
  onChange,
  invalid = false,
  message = null,
  ref,
  placeholder,
  unit,
  className = 'w-28',
}: FieldProps) {
  const told = useId();
  return (
    <div className={className}>
      <label>
        <span className="mb-1 block whitespace-nowrap text-xs text-muted">{label}</span>
        <span className="flex items-center gap-1.5">
          <input
            ref={ref}
            aria-label={unit ? `${label}, ${unit}` : label}
            inputMode="decimal"
            value={value}
            onChange={(event) => onChange(event.target.value)}
            aria-invalid={invalid || message !== null}
            aria-describedby={message === null ? undefined : told}
            placeholder={placeholder}
            className={clsx(inputLook, 'figure min-w-12')}
          />
          {unit && <span className="whitespace-nowrap text-sm text-muted">{unit}</span>}
        </span>
      </label>
      <FieldMessage id={told} message={message} />
    </div>
  );
}

/** A message about what was refused, or nothing. */
export function FormError({ message }: { message: ReactNode }) {
  return message ? (
    <p role="alert" className="border-l-4 border-signal pl-3 text-sm">
      {message}
    </p>
  ) : null;
}
