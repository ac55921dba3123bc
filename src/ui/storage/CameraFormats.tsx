'use client';
import type { SentTo } from '@/core/asked/routes';
import { count, fixed, megabits, upTo } from '@/core/format';
import { Pencil, Plus, Trash2, Undo2 } from 'lucide-react';
import { useCallback, useMemo, useState } from 'react';
import type { UseFormReturn } from 'react-hook-form';
import { cameraFormatInput } from '@/core/asked/volumes';
import { bytesPerFrame, formatDemand } from '@/core/storage/cameraFormats';
import { callApi } from '../api';
import { Form, FormButtons, FormNumberField, FormProblems, FormTextField } from '../form/Form';
import { useAskedForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { figure, FormError } from '../parts/Field';
import { useCommands } from '../keys/commands';
import { useSend } from '../useSend';
import type { CameraFormatRow } from '../pages';

interface Change {
  readonly label: string;
  readonly undo: () => Promise<unknown>;
}

/** What was changed here, the last first to be taken back; also by its key. @param reload fetches the formats anew */
function useChanges(reload: () => Promise<void>) {
  const [changes, setChanges] = useState<readonly Change[]>([]);
  const undo = useCallback(() => {
    const last = changes.at(-1);
    if (!last) return;
    setChanges(changes.slice(0, -1));
    void last.undo().then(reload);
  }, [changes, reload]);
  useCommands(
    useMemo(
      () => [
        {
          id: 'undo-format',
          label: 'Undo the last change of a format',
          group: 'Camera formats',
          key: 'Ctrl+z',
          run: undo,
        },
      ],
      [undo],
    ),
  );
  return {
    last: changes.at(-1),
    undo,
    add: (change: Change) => {
      setChanges((current) => [...current, change]);
      void reload();
    },
    forget: async () => {
      setChanges([]);
      await reload();
    },
  };
}

/** The table of general camera formats: edit, add, remove, and take back. */
export function CameraFormats({
  formats,
  reload,
}: {
  formats: readonly CameraFormatRow[];
  reload: () => Promise<void>;
}) {
  const [edited, setEdited] = useState<CameraFormatRow | 'new' | null>(null);
  const { last, undo, add, forget } = useChanges(reload);
  const { error, send } = useSend();
  const done = (change: Change) => {
    add(change);
    setEdited(null);
  };
  const remove = async (row: CameraFormatRow) => {
    if (await send('DELETE /api/camera-formats/{id}', { ids: { id: row.id } }))
      done({
        label: `${row.name} was removed.`,
        undo: () => callApi('PUT /api/camera-formats/{id}', { ids: { id: row.id }, body: row }),
      });
  };
  return (
    <section aria-label="Camera formats" className="flex flex-col gap-2">
      <div className="flex items-center gap-2">
        <h2 className="mr-auto">Camera formats</h2>
        {last && (
          <>
            <span role="status" className="text-sm text-muted">
              {last.label}
            </span>
            <Button onClick={undo}>
              <Undo2 aria-hidden className="size-4" />
              Undo
            </Button>
          </>
        )}
        <Button onClick={() => setEdited('new')}>
          <Plus aria-hidden className="size-4" />
          Add a format
        </Button>
        <ConfirmButton
          label="Restore the built-in formats"
          title="Restore the built-in formats?"
          consequence={`The ${formats.length} formats of the table go, your own ones too. This cannot be undone.`}
          verb="Put back"
          act={async () => {
            await callApi('DELETE /api/camera-formats');
            await forget();
          }}
        >
          Reset
        </ConfirmButton>
      </div>
      {edited && (
        <FormatForm
          key={edited === 'new' ? 'new' : edited.id}
          row={edited === 'new' ? null : edited}
          onDone={done}
          onClose={() => setEdited(null)}
        />
      )}
      <FormError message={error?.message} />
      <FormatTable formats={formats} onEdit={setEdited} onRemove={(row) => void remove(row)} />
    </section>
  );
}

/** Heads of the table, and whether figures stand under them. */
const heads: readonly (readonly [name: string, figures: boolean])[] = [
  ['Name', false],
  ['Raster', false],
  ['Rate /s', true],
  ['Codec class', false],
  ['Bytes per frame', true],
  ['Mb/s', true],
  ['Peak over mean', true],
  ['', false],
];

function FormatTable({
  formats,
  onEdit,
  onRemove,
}: {
  formats: readonly CameraFormatRow[];
  onEdit: (row: CameraFormatRow) => void;
  onRemove: (row: CameraFormatRow) => void;
}) {
  return (
    <div className="overflow-x-auto border bg-surface">
      <table aria-label="Camera formats" className="w-full text-sm">
        <thead>
          <tr className="border-b text-left text-xs text-muted">
            {heads.map(([name, figures]) => (
              <th
                key={name}
                scope="col"
                className={`px-2.5 py-1.5 font-normal ${figures ? 'text-right' : ''}`}
              >
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {formats.map((row) => (
            <tr key={row.id} className="border-b last:border-b-0 hover:bg-raised/60">
              <td className="max-w-64 truncate px-2.5 py-1" title={row.name}>
                {row.name}
              </td>
              <td className="figure px-2.5 py-1">{row.raster}</td>
              <td className="figure px-2.5 py-1 text-right">{upTo(row.framesPerSecond, 3)}</td>
              <td className="px-2.5 py-1">{row.codecClass}</td>
              <td className="figure px-2.5 py-1 text-right">{count(row.bytesPerFrame)}</td>
              <td className="figure px-2.5 py-1 text-right">
                {megabits(formatDemand(row).meanBitsPerSecond)}
              </td>
              <td className="figure px-2.5 py-1 text-right">{fixed(row.peakOverMean, 2)}</td>
              <td className="whitespace-nowrap px-1 py-0.5 text-right">
                <Button
                  look="quiet"
                  className="h-8"
                  aria-label={`Edit ${row.name}`}
                  onClick={() => onEdit(row)}
                >
                  <Pencil aria-hidden className="size-4" />
                </Button>
                <Button
                  look="quiet"
                  className="h-8"
                  aria-label={`Remove ${row.name}`}
                  onClick={() => onRemove(row)}
                >
                  <Trash2 aria-hidden className="size-4" />
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** A format as it is typed: figures are text. */
type FormatTyped = Record<
  'name' | 'raster' | 'framesPerSecond' | 'codecClass' | 'bytesPerFrame' | 'megabits' | 'peakOverMean',
  string
>;

interface FormatFormProps {
  readonly row: CameraFormatRow | null;
  readonly onDone: (change: Change) => void;
  readonly onClose: () => void;
}

/** What typing one of bytes and Mb/s does to the other. */
function followers(form: UseFormReturn<FormatTyped>) {
  return {
    bytesPerFrame: (typed: string) => {
      const rate = Number(form.getValues('framesPerSecond'));
      if (Number(typed) > 0) form.setValue('megabits', upTo((Number(typed) * 8 * rate) / 1e6, 3));
    },
    megabits: (typed: string) => {
      const rate = Number(form.getValues('framesPerSecond'));
      if (Number(typed) > 0 && rate > 0)
        form.setValue('bytesPerFrame', String(bytesPerFrame(Number(typed), rate)), {
          shouldValidate: form.formState.isSubmitted,
        });
    },
  };
}

/** Adds a format or changes it; tells what was done, and how to undo it. */
async function saveFormat(
  row: FormatFormProps['row'],
  body: SentTo<'POST /api/camera-formats'>,
): Promise<Change> {
  if (row) {
    const ids = { id: row.id };
    await callApi('PATCH /api/camera-formats/{id}', { ids, body });
    return {
      label: `${body.name} was changed.`,
      undo: () => callApi('PATCH /api/camera-formats/{id}', { ids, body: row }),
    };
  }
  const { id } = await callApi('POST /api/camera-formats', { body });
  return {
    label: `${body.name} was added.`,
    undo: () => callApi('DELETE /api/camera-formats/{id}', { ids: { id } }),
  };
}

/** Bytes per frame and Mb/s follow each other: either may be typed. */
function FormatForm({ row, onDone, onClose }: FormatFormProps) {
  const asking = useAskedForm({
    schema: cameraFormatInput,
    defaults: {
      name: row?.name ?? '',
      raster: row?.raster ?? '',
      framesPerSecond: row ? String(row.framesPerSecond) : '25',
      codecClass: row?.codecClass ?? '',
      bytesPerFrame: row ? String(row.bytesPerFrame) : '',
      megabits: row ? upTo(formatDemand(row).meanBitsPerSecond / 1e6, 3) : '',
      peakOverMean: row ? String(row.peakOverMean) : '1',
    },
    draft: row ? `format-${row.id}` : 'format',
    bodyOf: ({ name, raster, codecClass, ...typed }: FormatTyped) => ({
      name,
      raster,
      codecClass,
      framesPerSecond: figure(typed.framesPerSecond),
      bytesPerFrame: figure(typed.bytesPerFrame),
      peakOverMean: figure(typed.peakOverMean),
    }),
  });
  const save = async () => {
    const change = await asking.ask((body) => saveFormat(row, body));
    if (change) onDone(change);
  };
  const follow = followers(asking.form);
  return (
    <Form of={asking} label={row ? `Edit ${row.name}` : 'New camera format'} onSubmit={save}>
      <div className="flex flex-wrap items-start gap-3">
        <FormTextField name="name" label="Name" className="w-52" />
        <FormNumberField
          name="bytesPerFrame"
          label="Bytes per frame"
          onTyped={follow.bytesPerFrame}
          className="w-36"
        />
        <FormNumberField
          name="megabits"
          label="or data rate"
          onTyped={follow.megabits}
          unit="Mb/s"
          className="w-36"
        />
        <FormNumberField name="framesPerSecond" label="Frames per second" className="w-32" />
        <FormNumberField name="peakOverMean" label="Peak over mean" className="w-28" />
        <FormTextField name="raster" label="Raster" placeholder="3840x2160" figures className="w-32" />
        <FormTextField
          name="codecClass"
          label="Codec class"
          placeholder="All-intra 10-bit 4:2:2"
          className="w-56"
        />
      </div>
      <FormProblems />
      <FormButtons of={asking} verb="Save">
        <Button
          onClick={() => {
            asking.discard();
            onClose();
          }}
        >
          Discard changes
        </Button>
      </FormButtons>
    </Form>
  );
}
