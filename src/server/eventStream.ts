import { subscribe } from './events';

const keepAliveMs = 10_000;

/** A server-sent event stream of all Navvy events, until the page leaves. */
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
      const unsubscribe = subscribe((event) => { if (event.type !== 'cancel' && event.type !== 'pause') send(`data: ${JSON.stringify(event)}\n\n`); });
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
  return new Response(body, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store, no-transform', 'x-accel-buffering': 'no' } });
}
