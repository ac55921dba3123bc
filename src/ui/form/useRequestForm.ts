'use client';
import { yupResolver } from '@hookform/resolvers/yup';
import { useEffect, useState } from 'react';
import {
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

interface RequestFormOptions<Name extends RouteName, Values extends FieldValues> {
  /** The form of the route's body, of the core: what it refuses is said at its fields before anything is sent. */
  readonly schema: ISchema<object>;
  /** Figures are text until they are sent. Fields have the names that they have in the body. */
  readonly defaults: Values;
  readonly bodyOf: (values: Values) => SentTo<Name>;
  /** The field that a place in the body is of, where they are not called alike; both with dots between their parts. */
  readonly fieldOf?: (place: string, values: Values) => string;
  /** Name under which what is typed is kept until it is sent; absent: it goes with the page. */
  readonly draft?: string;
  /** What becomes of a draft where what is offered has changed meanwhile. */
  readonly fit?: (draft: Values) => Values;
}

export interface RequestForm<Name extends RouteName, Values extends FieldValues> {
  readonly form: UseFormReturn<Values>;
  readonly busy: boolean;
  /** What was typed before and not sent: offered, or taken up; null where there is none. */
  readonly draft: 'offered' | 'taken-up' | null;
  /** Puts what was typed before into the form. It is not put there unasked: somebody may be typing. */
  readonly takeUp: () => void;
  /** Forgets what was typed before, and puts the form back to what it began with. */
  readonly discard: () => void;
  /** Checks the form and asks the route; null when either refused, which the form then says. */
  readonly send: (...along: Optionally<Addressed<Name>>) => Promise<Answer<Name> | null>;
}

/** A form whose fields are the body of a route: checked by the schema that the server checks with, all fields at once. */
export function useRequestForm<Name extends RouteName, Values extends FieldValues>(
  route: Name,
  {
    schema,
    defaults,
    bodyOf,
    draft,
    fit = (kept) => kept,
    fieldOf = (place) => place,
  }: RequestFormOptions<Name, Values>,
): RequestForm<Name, Values> {
  const [busy, setBusy] = useState(false);
  const [offered, setOffered] = useState<Values | null>(null);
  const [isTakenUp, setIsTakenUp] = useState(false);
  const form = useForm<Values>({
    defaultValues: defaults as DefaultValues<Values>,
    resolver: async (values, context, options) => {
      const checked = await yupResolver(schema as Parameters<typeof yupResolver>[0], { abortEarly: false })(
        bodyOf(values) as FieldValues,
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
  const send = async (...[along]: Optionally<Addressed<Name>>): Promise<Answer<Name> | null> => {
    let answer: Answer<Name> | null = null;
    const ask = async (values: Values) => {
      setBusy(true);
      try {
        answer = await callApi(
          route,
          ...([{ ...along, body: bodyOf(values) }] as unknown as Optionally<Along<Name>>),
        );
        forget();
      } catch (failure) {
        const { message, field } = apiErrorOf(failure);
        const name = field === null ? 'root' : fieldOf(dotted(field), values);
        form.setError(name as Path<Values>, { type: 'refused', message });
      } finally {
        setBusy(false);
      }
    };
    await form.handleSubmit(ask)();
    return answer;
  };
  const state = offered ? 'offered' : isTakenUp ? 'taken-up' : null;
  return { form, busy, draft: state, takeUp, discard, send };
}

/** What stands in the form now. */
export function useTyped<Values extends FieldValues>({
  form,
}: {
  readonly form: UseFormReturn<Values>;
}): Values {
  return useWatch({ control: form.control }) as Values;
}
