'use client';
import { Dialog } from 'radix-ui';
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { incomingKind, tellingCharacters, type IncomingKind } from '@/core/formats/sniff';
import { useCommands } from '../keys/commands';
import { ImportTimeline } from '../timeline/ImportTimeline';
import { Button } from '../parts/Button';
import { ImportBundle } from './ImportBundle';
import { ImportLook } from './ImportLook';
import { VerifyList } from './VerifyList';

/** A file that was dropped, with what it is. */
interface Dropped {
  readonly id: number;
  readonly file: File;
  /** `other`: none of the kinds that can be read. `unreadable`: it gives no text, as a folder does. */
  readonly kind: IncomingKind | 'other' | 'unreadable';
}

/** Most files that one drop takes. */
const mostDropped = 20;

const headings: Readonly<Record<Dropped['kind'], string>> = {
  other: 'Not imported',
  unreadable: 'Not imported',
  timeline: 'Timeline',
  look: 'Look',
  bundle: 'Result bundle',
  'hash-list': 'Hash list',
};

let lastId = 0;

const told = (files: readonly File[]): Promise<Dropped[]> =>
  Promise.all(
    files.slice(0, mostDropped).map(async (file) => {
      const head = await file
        .slice(0, tellingCharacters)
        .text()
        .catch(() => null);
      const kind = head === null ? 'unreadable' : (incomingKind(file.name, head) ?? 'other');
      return { id: ++lastId, file, kind } as const;
    }),
  );

const holdsFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') === true;

/** Takes files that are dropped anywhere. @returns whether some are held over the page */
function useFileDrops(takeFiles: (list: FileList | undefined) => void): boolean {
  const [over, setOver] = useState(false);
  useEffect(() => {
    let leaving: ReturnType<typeof setTimeout> | undefined;
    // A place of its own for files, such as an upload, has taken the event already.
    const onOver = (event: DragEvent) => {
      if (!holdsFiles(event) || event.defaultPrevented) return;
      event.preventDefault();
      setOver(true);
      // Leaving is not told reliably: over comes many times a second as long as it lasts.
      clearTimeout(leaving);
      leaving = setTimeout(() => setOver(false), 400);
    };
    const onDrop = (event: DragEvent) => {
      setOver(false);
      if (!holdsFiles(event) || event.defaultPrevented) return;
      event.preventDefault();
      takeFiles(event.dataTransfer?.files);
    };
    window.addEventListener('dragover', onOver);
    window.addEventListener('drop', onDrop);
    return () => {
      clearTimeout(leaving);
      window.removeEventListener('dragover', onOver);
      window.removeEventListener('drop', onDrop);
    };
  }, [takeFiles]);
  return over;
}

function WhereToDrop() {
  return (
    <div
      aria-hidden
      className="pointer-events-none fixed inset-0 z-40 flex items-center justify-center border-4 border-signal bg-black/60 text-lg"
    >
      <p className="max-w-md bg-surface p-4 text-center">
        Timeline, look, result bundle or hash list: drop it to see what is in it.
      </p>
    </div>
  );
}

/** Takes files that are dropped onto any page: what each is and what would be lost is told before anything is stored. */
export function DropFiles() {
  const [dropped, setDropped] = useState<readonly Dropped[]>([]);
  const [leftOut, setLeftOut] = useState(0);
  const takeFiles = useCallback((list: FileList | null | undefined) => {
    const files = [...(list ?? [])];
    setLeftOut(Math.max(0, files.length - mostDropped));
    void told(files).then((next) => setDropped((before) => [...before, ...next]));
  }, []);
  const over = useFileDrops(takeFiles);
  const input = useRef<HTMLInputElement>(null);
  useCommands(
    useMemo(
      () => [
        {
          id: 'import-file',
          label: 'Import a file',
          group: 'Everywhere',
          run: () => input.current?.click(),
        },
      ],
      [],
    ),
  );
  const discard = (id: number) => setDropped((before) => before.filter((one) => one.id !== id));
  return (
    <>
      <input
        ref={input}
        type="file"
        multiple
        aria-label="Files to import"
        tabIndex={-1}
        className="sr-only"
        onChange={(event) => {
          takeFiles(event.target.files);
          event.target.value = '';
        }}
      />
      {over && <WhereToDrop />}
      <Dialog.Root open={dropped.length > 0} onOpenChange={(open) => (open ? undefined : setDropped([]))}>
        <Dialog.Portal>
          <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
          <Dialog.Content
            aria-describedby={undefined}
            className="fixed top-[8vh] left-1/2 z-40 max-h-[84vh] w-[min(860px,94vw)] -translate-x-1/2 overflow-y-auto border border-edge bg-surface p-5 shadow-2xl"
          >
            <div className="flex items-start justify-between gap-4">
              <Dialog.Title className="font-semibold">
                {dropped.length === 1 ? 'Import a file' : `Import ${dropped.length} files`}
              </Dialog.Title>
              <Dialog.Close asChild>
                <Button look="quiet">Close</Button>
              </Dialog.Close>
            </div>
            {leftOut > 0 && (
              <p role="alert" className="mt-2 text-sm text-signal-text">
                {mostDropped} files are taken at once. {leftOut} more were left out: import them after these.
              </p>
            )}
            <div className="mt-3 flex flex-col gap-5">
              {dropped.map((one) => (
                <section key={one.id} aria-label={one.file.name}>
                  <h3 className="mb-2 text-sm break-all text-muted">
                    {headings[one.kind]}: {one.file.name}
                  </h3>
                  <Taken {...one} onDiscard={() => discard(one.id)} />
                </section>
              ))}
            </div>
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </>
  );
}

function Taken({ file, kind, onDiscard }: Dropped & { readonly onDiscard: () => void }) {
  switch (kind) {
    case 'timeline':
      return <ImportTimeline file={file} onDiscard={onDiscard} />;
    case 'look':
      return <ImportLook file={file} onDiscard={onDiscard} />;
    case 'bundle':
      return <ImportBundle file={file} onStored={() => undefined} onDiscard={onDiscard} />;
    case 'hash-list':
      return <VerifyList source={{ file }} onDone={onDiscard} />;
    case 'unreadable':
      return (
        <Alert>
          {file.name} cannot be read. A folder of media comes in as a volume: add it under Storage.
        </Alert>
      );
    case 'other':
      return (
        <Alert>
          {file.name} is none of the files that can be imported here: timelines (.otio, .edl), looks (.cube),
          result bundles (.json) and hash lists (.mhl, .md5 and others). Media come in as a volume: add its
          folder under Storage.
        </Alert>
      );
  }
}

function Alert({ children }: { readonly children: ReactNode }) {
  return (
    <p role="alert" className="text-sm text-signal-text">
      {children}
    </p>
  );
}
