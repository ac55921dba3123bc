'use client';
import { clsx } from 'clsx';
import { createContext, useContext, useEffect, useId, useMemo, useState, type ReactNode } from 'react';
import {
  FormProvider,
  get,
  useController,
  useFormContext,
  useFormState,
  type FieldValues,
} from 'react-hook-form';
import { Button } from '../parts/Button';
import { CheckField } from '../parts/Checkbox';
import { Choice } from '../parts/Choice';
import { FieldMessage, FormError, NumberField, TextField } from '../parts/Field';
import { SelectField } from '../parts/Select';
import { messagesOf } from './messages';
import type { DrawnForm } from './useRequestForm';

/** Fields that say their own messages, as long as they are in sight. */
interface Shown {
  readonly names: ReadonlySet<string>;
  readonly show: (name: string) => () => void;
}
const ShownFields = createContext<Shown | null>(null);

interface FormProps<Values extends FieldValues> {
  readonly of: DrawnForm<Values>;
  readonly label: string;
  readonly onSubmit: () => Promise<void>;
  readonly className?: string;
  readonly children: ReactNode;
}

/** What the fields of a form share. */
function Fields<Values extends FieldValues>({
  of: { form },
  children,
}: Pick<FormProps<Values>, 'of' | 'children'>) {
  const [names, setNames] = useState<ReadonlySet<string>>(new Set());
  const shown = useMemo<Shown>(
    () => ({
      names,
      show: (name) => {
        setNames((current) => new Set(current).add(name));
        return () => setNames((current) => new Set([...current].filter((other) => other !== name)));
      },
    }),
    [names],
  );
  return (
    <FormProvider {...form}>
      <ShownFields value={shown}>{children}</ShownFields>
    </FormProvider>
  );
}

/** A form of a request, with its fields in it. @param onSubmit sends it, and says what follows */
export function Form<Values extends FieldValues>({
  of,
  id,
  label,
  onSubmit,
  isPrinted = true,
  className = 'flex flex-col gap-3 border bg-surface p-4',
  children,
}: FormProps<Values> & {
  readonly id?: string;
  /** Whether it stands on paper too. */
  readonly isPrinted?: boolean;
}) {
  return (
    <Fields of={of}>
      <form
        id={id}
        aria-label={label}
        noValidate
        data-no-print={isPrinted ? undefined : ''}
        className={className}
        onSubmit={(event) => {
          event.preventDefault();
          event.stopPropagation();
          void onSubmit();
        }}
      >
        {children}
      </form>
    </Fields>
  );
}

/** A form that stands within another and is sent by itself: by a button of its own, or by Enter in a field of it. */
export function InnerForm<Values extends FieldValues>({
  of,
  label,
  onSubmit,
  className,
  children,
}: FormProps<Values>) {
  return (
    <Fields of={of}>
      <div
        role="group"
        aria-label={label}
        className={className}
        onKeyDown={(event) => {
          if (event.key !== 'Enter' || !(event.target instanceof HTMLInputElement)) return;
          event.preventDefault();
          void onSubmit();
        }}
      >
        {children}
      </div>
    </Fields>
  );
}

/** What is wrong with a field that says so itself; null where it is sound. @param name as in the body that is sent */
export function useFormMessage(name: string): string | null {
  const { errors } = useFormState({ name });
  const show = useContext(ShownFields)?.show;
  useEffect(() => show?.(name), [name]); // eslint-disable-line react-hooks/exhaustive-deps -- told once for each name
  const error: { message?: string } | undefined = get(errors, name);
  return error?.message ?? null;
}

/** A field of the form around: its value, and what is wrong with it. @param name as in the body that is sent */
function useFormField(name: string) {
  const { field } = useController({ name });
  const message = useFormMessage(name);
  return { value: field.value as string, onChange: field.onChange, ref: field.ref, message };
}

/** What is chosen decides what else is asked for: once the form was sent, all of it is looked at again. */
function useChosen(onChange: (value: unknown) => void) {
  const { trigger } = useFormContext();
  const { isSubmitted } = useFormState();
  return (value: unknown) => {
    onChange(value);
    if (isSubmitted) void trigger();
  };
}

type Named<Props> = Omit<Props, 'value' | 'onChange' | 'message' | 'invalid' | 'field'> & {
  readonly name: string;
};

export function FormTextField({ name, ...field }: Named<Parameters<typeof TextField>[0]>) {
  return <TextField {...field} {...useFormField(name)} />;
}

/** @param onTyped told what is typed, for fields that follow */
export function FormNumberField({
  name,
  onTyped,
  ...field
}: Named<Parameters<typeof NumberField>[0]> & { readonly onTyped?: (value: string) => void }) {
  const { onChange, ...bound } = useFormField(name);
  return (
    <NumberField
      {...field}
      {...bound}
      onChange={(value) => {
        onChange(value);
        onTyped?.(value);
      }}
    />
  );
}

/** A figure in a line of words, which say what it is. */
export function FormFigure({
  name,
  label,
  className,
  placeholder,
  disabled = false,
}: {
  readonly name: string;
  readonly label: string;
  readonly className: string;
  readonly placeholder?: string;
  readonly disabled?: boolean;
}) {
  const { value, onChange, ref, message } = useFormField(name);
  return (
    <>
      <input
        ref={ref}
        aria-label={label}
        aria-invalid={message !== null}
        inputMode="decimal"
        placeholder={placeholder}
        disabled={disabled}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className={clsx(
          'figure h-9 border border-edge bg-ground px-2 text-sm text-ink aria-invalid:border-signal-text disabled:opacity-40',
          className,
        )}
      />
      <FieldMessage message={message} />
    </>
  );
}

export function FormSelect<Value extends string>({
  name,
  className,
  ...select
}: Named<Parameters<typeof SelectField<Value>>[0]>) {
  const { value, onChange, message } = useFormField(name);
  const choose = useChosen(onChange);
  return (
    <div className={className}>
      <SelectField<Value> {...select} value={value as Value} onChange={choose} invalid={message !== null} />
      <FieldMessage message={message} />
    </div>
  );
}

/** @param onChosen told what is chosen, for fields that follow */
export function FormChoice<Value extends string>({
  name,
  onChosen,
  ...choice
}: Named<Parameters<typeof Choice<Value>>[0]> & { readonly onChosen?: (value: Value) => void }) {
  const { value, onChange, message } = useFormField(name);
  const choose = useChosen(onChange);
  return (
    <div>
      <Choice<Value>
        {...choice}
        value={value as Value}
        onChange={(chosen) => {
          choose(chosen);
          onChosen?.(chosen);
        }}
      />
      <FieldMessage message={message} />
    </div>
  );
}

/** Fields that are seldom needed, folded away until one of them is wrong. @param names of the fields in it */
export function Folded({
  summary,
  names,
  className,
  children,
}: {
  readonly summary: string;
  readonly names: readonly string[];
  readonly className?: string;
  readonly children: ReactNode;
}) {
  const { errors } = useFormState();
  const [open, setOpen] = useState(false);
  const isWrong = names.some((name) => get(errors, name) !== undefined);
  return (
    <details
      className={className}
      open={open || isWrong}
      onToggle={(event) => setOpen(event.currentTarget.open)}
    >
      <summary className="w-fit text-sm text-muted hover:text-ink">{summary}</summary>
      <div className="mt-2 flex flex-wrap items-start gap-4">{children}</div>
    </details>
  );
}

/** A file of this computer; the form holds it, or null. */
export function FormFile({
  name,
  label,
  className,
}: {
  readonly name: string;
  readonly label: string;
  readonly className: string;
}) {
  const { field } = useController({ name });
  const message = useFormMessage(name);
  return (
    <div className={className}>
      <label>
        <span className="mb-1 block text-xs text-muted">{label}</span>
        <input
          ref={field.ref}
          type="file"
          aria-label={label}
          aria-invalid={message !== null}
          onChange={(event) => field.onChange(event.target.files?.[0] ?? null)}
          className="h-9 w-full text-sm file:mr-3 file:h-9 file:border file:border-edge file:bg-raised file:px-3 aria-invalid:outline-1 aria-invalid:outline-signal-text"
        />
      </label>
      <FieldMessage message={message} />
    </div>
  );
}

/** A box of the form around. */
export function FormCheck({
  name,
  ...box
}: Omit<Parameters<typeof CheckField>[0], 'checked' | 'onChange'> & { readonly name: string }) {
  const { field } = useController({ name });
  return <CheckField {...box} checked={field.value === true} onChange={useChosen(field.onChange)} />;
}

/** What was refused and stands at no field in sight. */
export function FormProblems() {
  const { errors } = useFormState();
  const shown = useContext(ShownFields)?.names;
  const rest = messagesOf(errors).filter(({ name }) => !shown?.has(name));
  return (
    <FormError
      message={rest.length === 0 ? null : [...new Set(rest.map(({ message }) => message))].join(' ')}
    />
  );
}

/** The buttons of a form. What was typed before and not sent is offered beside them. */
export function FormButtons<Values extends FieldValues>({
  of: { busy, draft, takeUp, discard },
  verb,
  children,
  className,
}: {
  readonly of: DrawnForm<Values>;
  readonly verb: ReactNode;
  readonly children?: ReactNode;
  readonly className?: string;
}) {
  const id = useId();
  return (
    <div className={clsx('flex flex-wrap items-center gap-2', className)}>
      <Button look="main" type="submit" disabled={busy}>
        {verb}
      </Button>
      {children}
      {draft !== null && (
        <span className="flex items-center gap-2 text-sm text-muted">
          <span id={id}>
            {draft === 'offered' ? 'There is a draft that was not sent.' : 'Not sent last time.'}
          </span>
          {draft === 'offered' && (
            <Button onClick={takeUp} aria-describedby={id}>
              Continue it
            </Button>
          )}
          <Button look="quiet" onClick={discard} aria-describedby={id}>
            Discard draft
          </Button>
        </span>
      )}
    </div>
  );
}
