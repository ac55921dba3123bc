'use client';
import { yupResolver } from '@hookform/resolvers/yup';
import { useEffect, useState } from 'react';
import {
  get,
  useForm,
  useWatch,
  type DefaultValues,
  type FieldErrors,
  type FieldValues,
  type Path,
  type UseFormReturn,
} from 'react-hook-form';
import type { RouteName, SentTo } from '@/core/asked/routes';
import type { ISchema } from '@/core/edge/strict';
import { apiErrorOf, callApi, type Addressed, type Along, type Answer, type Optionally } from '../api';
import { forgetDraft, keepDraft, readDraft } from './drafts';
import { dotted, renamed } from './messages';

interface AskedFormOptions<Values extends FieldValues, Body> {
  /** The form of the body, of the core: what it refuses is said at its fields before anything is sent. */
  readonly schema: ISchema<object>;
  /** Figures are text until they are sent. Fields have the names that they have in the body. */
  readonly defaults: Values;
  readonly bodyOf: (values: Values) => Body;
  /** The field that a place in the body is of, where they are not called alike; both with dots between their parts. */
  readonly fieldOf?: (place: string, values: Values) => string;
  /** Name under which what is typed is kept until it is sent; absent: it goes with the page. */
  readonly draft?: string;
  /** What becomes of a draft where what is offered has changed meanwhile. */
  readonly fit?: (draft: Values) => Values;
}

/** What is drawn of a form. */
export interface DrawnForm<Values extends FieldValues> {
  readonly form: UseFormReturn<Values>;
  readonly busy: boolean;
  /** Whether something is wrong with a field. @param name as in the body that is sent */
  readonly isWrong: (name: string) => boolean;
  /** What was typed before and not sent: offered, or taken up; null where there is none. */
  readonly draft: 'offered' | 'taken-up' | null;
  /** Puts what was typed before into the form. It is not put there unasked: somebody may be typing. */
  readonly takeUp: () => void;
  /** Forgets what was typed before, and puts the form back to what it began with. */
  readonly discard: () => void;
}

interface AskedForm<Values extends FieldValues, Body> extends DrawnForm<Values> {
  /** Checks the form and asks with its body; null when the form or what was asked refused, which the form then says. */
  readonly ask: <Got>(asking: (body: Body) => Promise<Got>) => Promise<Got | null>;
}

interface RequestForm<Name extends RouteName, Values extends FieldValues> extends DrawnForm<Values> {
  /** Checks the form and asks the route; null when either refused, which the form then says. */
  readonly send: (...along: Optionally<Addressed<Name>>) => Promise<Answer<Name> | null>;
}

/** A form whose fields are the body of what is asked: checked by the schema that the server checks with, all fields at once. */
export function useAskedForm<Values extends FieldValues, Body extends object>({
  schema,
  defaults,
  bodyOf,
  draft,
  fit = (kept) => kept,
  fieldOf = (place) => place,
}: AskedFormOptions<Values, Body>): AskedForm<Values, Body> {
  const [busy, setBusy] = useState(false);
  const [offered, setOffered] = useState<Values | null>(null);
  const [isTakenUp, setIsTakenUp] = useState(false);
  const form = useForm<Values>({
    defaultValues: defaults as DefaultValues<Values>,
    resolver: async (values, context, options) => {
      const checked = await yupResolver(schema as Parameters<typeof yupResolver>[0], { abortEarly: false })(
        bodyOf(values),
        context,
        options as unknown as Parameters<ReturnType<typeof yupResolver>>[2],
      );
      return Object.keys(checked.errors).length > 0
        ? {
            values: {},
            errors: renamed(checked.errors, (place) => fieldOf(place, values)) as FieldErrors<Values>,
          }
        : { values, errors: {} };
    },
  });
  useEffect(() => {
    if (draft === undefined) return;
    setOffered(readDraft(draft, defaults));
    const watching = form.watch((values) => keepDraft(draft, values));
    return () => watching.unsubscribe();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what the form began with does not change while it is open
  }, [draft, form]);
  const takeUp = () => {
    if (!offered) return;
    form.reset(fit(offered), { keepDefaultValues: true });
    setOffered(null);
    setIsTakenUp(true);
  };
  const forget = () => {
    if (draft !== undefined) forgetDraft(draft);
    setOffered(null);
    setIsTakenUp(false);
  };
  const discard = () => {
    form.reset();
    forget();
  };
  const ask = async <Got>(asking: (body: Body) => Promise<Got>): Promise<Got | null> => {
    let got: Got | null = null;
    const checked = async (values: Values) => {
      setBusy(true);
      try {
        got = await asking(bodyOf(values));
        forget();
      } catch (failure) {
        const { message, field } = apiErrorOf(failure);
        const name = field === null ? 'root' : fieldOf(dotted(field), values);
        form.setError(name as Path<Values>, { type: 'refused', message });
      } finally {
        setBusy(false);
      }
    };
    await form.handleSubmit(checked)();
    return got;
  };
  const { errors } = form.formState;
  const isWrong = (name: string) => get(errors, name) !== undefined;
  const state = offered ? 'offered' : isTakenUp ? 'taken-up' : null;
  return { form, busy, isWrong, draft: state, takeUp, discard, ask };
}

/** A form that is sent to one route. */
export function useRequestForm<Name extends RouteName, Values extends FieldValues>(
  route: Name,
  options: AskedFormOptions<Values, SentTo<Name> & object>,
): RequestForm<Name, Values> {
  const { ask, ...drawn } = useAskedForm(options);
  const send = (...[along]: Optionally<Addressed<Name>>) =>
    ask((body) => callApi(route, ...([{ ...along, body }] as unknown as Optionally<Along<Name>>)));
  return { ...drawn, send };
}

/** What stands in the form now. */
export function useTyped<Values extends FieldValues>({
  form,
}: {
  readonly form: UseFormReturn<Values>;
}): Values {
  return useWatch({ control: form.control }) as Values;
}
