import { cleanup, configure, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { AppRouterContext } from 'next/dist/shared/lib/app-router-context.shared-runtime';
import { PathnameContext } from 'next/dist/shared/lib/hooks-client-context.shared-runtime';
import { act, type ContextType, type ReactElement } from 'react';
import type { NavvyEvent } from '@/server/platform/events';
import type { Status } from '@/server/platform/rig';
import { CommandsProvider } from '../keys/commands';
import { EventsProvider } from '../shell/events';
import { StatusProvider } from '../shell/status';

/** A page as a browser holds it, with the server and its events in the hands of the test. For tests in jsdom. */

/** The event stream as the browser's own, told what to say. */
class FakeSource {
  static all: FakeSource[] = [];
  onopen: (() => void) | null = null;
  onerror: (() => void) | null = null;
  onmessage: ((message: { data: string }) => void) | null = null;
  constructor() {
    FakeSource.all.push(this);
  }
  close(): void {
    FakeSource.all = FakeSource.all.filter((one) => one !== this);
  }
}

export interface Request {
  readonly method: string;
  readonly path: string;
  readonly body: unknown;
}
/** What the server answers: data, or a refusal with its status. */
type Answer = (request: Request) => unknown;
export class Refusal {
  constructor(
    readonly message: string,
    readonly field: string | null = null,
  ) {}
}

export const requests: Request[] = [];
let answer: Answer = () => ({});

export const status: Status = {
  rigName: 'Slipway',
  currency: 'EUR',
  power: 'mains',
  runner: 'ready',
  running: null,
  queued: 0,
  volumes: 2,
  clips: 3,
  timelines: 1,
  results: 4,
  briefs: 0,
  ownBriefs: 1,
  selfCheck: 'trusted',
};

function fakeFetch(
  path: string,
  { method = 'GET', body = null }: { method?: string; body?: string | null } = {},
): Promise<unknown> {
  const request = { method, path, body: body === null ? null : (JSON.parse(body) as unknown) };
  if (method !== 'GET') requests.push(request);
  const found = answer(request) ?? (path === '/api/status' ? status : undefined);
  return Promise.resolve(found).then((data) =>
    data instanceof Refusal
      ? { ok: false, json: () => Promise.resolve({ message: data.message, field: data.field }) }
      : {
          ok: data !== undefined,
          json: () => Promise.resolve(data ?? { message: 'There is no such page.' }),
        },
  );
}

/** Sizes come from no layout here: all boxes are this wide. */
const boxWidth = 800;
class FakeObserver {
  constructor(private readonly told: (entries: readonly { readonly target: Element }[]) => void) {}
  observe(target: Element): void {
    this.told([{ target }]);
  }
  unobserve(): void {
    /* nothing is watched */
  }
  disconnect(): void {
    /* nothing is watched */
  }
}

/** Puts the stand-ins in place for a file's tests. */
export function inBrowser(): void {
  beforeAll(() => {
    configure({ asyncUtilTimeout: 30_000 }); // other work may share the cores
    Object.assign(globalThis, {
      EventSource: FakeSource,
      ResizeObserver: FakeObserver,
      fetch: fakeFetch,
      IS_REACT_ACT_ENVIRONMENT: true,
    });
    Object.defineProperty(HTMLElement.prototype, 'clientWidth', { configurable: true, value: boxWidth });
    HTMLCanvasElement.prototype.getContext = () => null;
    HTMLElement.prototype.scrollIntoView = () => undefined;
  });
  beforeEach(() => {
    requests.length = 0;
    answer = () => undefined;
  });
  afterEach(() => {
    cleanup();
    FakeSource.all = [];
    pushed.length = 0;
  });
}

/** Where pages went. */
export const pushed: string[] = [];
const router = {
  push: (path: string) => {
    pushed.push(path);
  },
  replace: () => undefined,
  refresh: () => undefined,
  back: () => undefined,
  forward: () => undefined,
  prefetch: () => undefined,
} as unknown as NonNullable<ContextType<typeof AppRouterContext>>;

/** From now on the server answers so; undefined means that it has nothing there. */
export function server(next: Answer): void {
  answer = next;
}

/** Draws a page in Navvy's shell. */
export async function show(page: ReactElement, initial: Status | null = status) {
  const around = (inner: ReactElement) => (
    <AppRouterContext.Provider value={router}>
      <PathnameContext.Provider value="/trials">
        <EventsProvider>
          <CommandsProvider>
            <StatusProvider initial={initial}>{inner}</StatusProvider>
          </CommandsProvider>
        </EventsProvider>
      </PathnameContext.Provider>
    </AppRouterContext.Provider>
  );
  const drawn = render(around(page));
  await act(() => Promise.resolve());
  return {
    again: async (next: ReactElement) => {
      drawn.rerender(around(next));
      await settle();
    },
  };
}

/** Lets answers come in and be drawn. */
export async function settle(): Promise<void> {
  await act(
    () =>
      new Promise((resolve) => {
        setTimeout(resolve, 0);
      }),
  );
}

export async function connection(connected: boolean): Promise<void> {
  act(() => {
    for (const source of FakeSource.all) (connected ? source.onopen : source.onerror)?.();
  });
  await settle();
}

export async function event(told: NavvyEvent): Promise<void> {
  act(() => {
    for (const source of FakeSource.all) source.onmessage?.({ data: JSON.stringify(told) });
  });
  await settle();
}

/** What a person reads of the page, in single spaces. */
export const read = () => (document.body.textContent ?? '').replace(/[\u2009\u202f\s]+/g, ' ').trim();

export async function press(name: string | RegExp): Promise<void> {
  await userEvent.click(screen.getByRole('button', { name }));
  await settle();
}

/** Types over what a field holds. */
export async function type(label: string, text: string): Promise<void> {
  const field = screen.getByLabelText(label);
  await userEvent.clear(field);
  if (text) await userEvent.type(field, text);
}
