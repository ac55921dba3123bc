'use client';
import { useCallback, useMemo, useState } from 'react';
import { useSend } from '../useSend';
import { useCommands } from './commands';

/** Cancels what a page shows, by button or Escape. @param path route that cancels it @param label what Escape does, in the list of keys */
export function useCancel(path: string, label: string) {
  const { busy, error, send } = useSend();
  const [asked, setAsked] = useState(false);
  const cancel = useCallback(() => {
    setAsked(true);
    void send(path, 'POST').then((done) => {
      if (done === null) setAsked(false);
    });
  }, [send, path]);
  useCommands(
    useMemo(() => [{ id: 'cancel', label, group: 'Trial', key: 'Escape', run: cancel }], [cancel, label]),
  );
  return { cancel, asked, busy, error };
}
