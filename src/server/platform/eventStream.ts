import 'server-only';
import { subscribe, type NavvyEvent } from './events';

const keepAliveMs = 10_000;

/** What is said to the runner alone. */
const toRunner: ReadonlySet<NavvyEvent['type']> = new Set(['cancel', 'pause', 'skip']);

/** A server-sent event stream of all Navvy events that pages may hear, until the page leaves. */
export function eventStream(signal: AbortSignal): Response {
  const encoder = new TextEncoder();
  let end: () => void = () => undefined;
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => {
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          end(); // the page has gone
        }
      };
      const unsubscribe = subscribe((event) => {
        if (!toRunner.has(event.type)) send(`data: ${JSON.stringify(event)}\n\n`);
      });
      const keepAlive = setInterval(() => send(': \n\n'), keepAliveMs);
      end = () => {
        unsubscribe();
        clearInterval(keepAlive);
      };
      signal.addEventListener('abort', end);
      send('retry: 1000\n\n');
    },
    cancel: () => end(),
  });
  return new Response(body, {
    headers: {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store, no-transform',
      'x-accel-buffering': 'no',
    },
  });
}
