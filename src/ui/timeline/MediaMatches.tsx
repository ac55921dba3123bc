'use client';
import { count } from '@/core/format';
import type { RelinkReport } from '@/server/timelines/interchange';
import { MiddleName } from '../parts/MiddleName';
import { SelectField } from '../parts/Select';
import { Simulated } from '../parts/Simulated';
import { relinkWords } from './words';

/** Most rows that are drawn of one kind; the rest is counted. */
const mostDrawn = 200;

/** What media were matched by what; those that several different files may be are chosen by hand. */
export function MediaMatches({
  report,
  chosen,
  onChoose,
  missing,
}: {
  readonly report: RelinkReport;
  /** Clips chosen by the ids of media. */
  readonly chosen: Readonly<Record<string, string>>;
  readonly onChoose: (mediaId: string, clipId: string) => void;
  /** What is to be done about media that nothing matches. */
  readonly missing: string;
}) {
  return (
    <div className="flex flex-col gap-2 text-sm">
      {report.choices.length > 0 && (
        <fieldset>
          <legend className="text-xs text-muted">
            Several files match {report.choices.length === 1 ? 'this medium' : 'these media'}. Choose, or
            leave {report.choices.length === 1 ? 'it' : 'them'} missing.
          </legend>
          {report.choices.slice(0, mostDrawn).map(({ mediaId, name, by, files }) => (
            <SelectField
              key={mediaId}
              label={`${name}, by ${relinkWords[by]}`}
              value={chosen[mediaId] ?? ''}
              onChange={(clipId) => onChoose(mediaId, clipId)}
              options={[
                ['', `${files.length} files match`],
                ...files.map(
                  ({ ref, path, volumeName, simulated }) =>
                    [ref.clipId ?? '', `${path} — ${volumeName}${simulated ? ' (simulated)' : ''}`] as const,
                ),
              ]}
              className="mt-1 block"
            />
          ))}
          <More of={report.choices.length} />
        </fieldset>
      )}
      {report.missing.length > 0 && (
        <div>
          <p className="text-xs text-signal-text">
            {count(report.missing.length)} {report.missing.length === 1 ? 'medium has' : 'media have'} no
            match. {missing}
          </p>
          <ul className="max-h-40 overflow-y-auto text-xs">
            {report.missing.slice(0, mostDrawn).map(({ mediaId, name }) => (
              <li key={mediaId} className="flex">
                <MiddleName name={name} />
              </li>
            ))}
          </ul>
          <More of={report.missing.length} />
        </div>
      )}
      {report.found.length > 0 && <Found found={report.found} />}
      <More of={report.found.length} />
    </div>
  );
}

/** What each medium was matched by, and with which clip. */
function Found({ found }: Pick<RelinkReport, 'found'>) {
  return (
    <table aria-label="Matched media" className="w-full table-fixed text-xs">
      <thead className="text-left text-muted">
        <tr>
          <th className="w-2/5 font-normal">Medium</th>
          <th className="w-1/5 font-normal">Matched by</th>
          <th className="font-normal">Clip</th>
        </tr>
      </thead>
      <tbody>
        {found.slice(0, mostDrawn).map(({ mediaId, name, by, file }) => (
          <tr key={mediaId} className="border-t align-top">
            <td className="pr-2">
              <span className="flex min-w-0">
                <MiddleName name={name} />
              </span>
            </td>
            <td className="pr-2">{relinkWords[by]}</td>
            <td>
              <span className="flex min-w-0">
                <MiddleName name={file.path} />
              </span>
              <span className="text-muted">
                {file.volumeName} {file.simulated && <Simulated />}
              </span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function More({ of }: { readonly of: number }) {
  return of > mostDrawn ? (
    <p className="text-xs text-muted">
      {count(mostDrawn)} of {count(of)} are listed.
    </p>
  ) : null;
}
