import { count, milliseconds, percent } from '@/core/format';
import Link from 'next/link';
import { chargesByDrops } from '@/core/playback/attribute';
import { causeLabel } from '@/core/sentences/playback';
import type { ForecastAnswer } from '@/server/timelines/timelineForecast';
import { GradeMark } from '../parts/GradeMark';

/** A forecast with what it rests on and, where the same was measured, how far it was off; or what is still to be measured. */
export function Forecast({ answer: { forecast, restsOn, missing, twin } }: { answer: ForecastAnswer }) {
  return (
    <div role="status" aria-label="Forecast" className="mt-3 border-l-4 border-edge pl-3 text-sm">
      {forecast ? (
        <>
          <p className="flex flex-wrap items-center gap-3">
            <span className="text-xs text-muted">Forecast</span>
            {forecast.grade && <GradeMark grade={forecast.grade} />}
            <strong className="font-semibold">
              {forecast.dropped === 0
                ? `all ${count(forecast.slots)} slots would be shown`
                : `${count(forecast.dropped)} of ${count(forecast.slots)} slots would drop; ${chargesByDrops(
                    forecast.countByCharge,
                  )
                    .map(({ charge, drops }) => `${causeLabel(charge)} for ${count(drops)}`)
                    .join(', ')}`}
            </strong>
          </p>
          <p className="text-xs text-muted">
            Mean work per slot: read {milliseconds(forecast.meanMs.read)}, decode{' '}
            {milliseconds(forecast.meanMs.decode)}, process {milliseconds(forecast.meanMs.process)}; decoding
            and processing share the processor.
          </p>
        </>
      ) : (
        <>
          <p className="font-semibold">No forecast yet. Still to be measured:</p>
          <ul className="list-disc pl-4">
            {missing.map(({ what, href }) => (
              <li key={what}>
                <Link prefetch={false} href={href} className="underline">
                  {what}
                </Link>
              </li>
            ))}
          </ul>
        </>
      )}
      {twin && (
        <p className="text-xs">
          Measured under the same settings:{' '}
          <Link prefetch={false} href={`/trials/${twin.id}`} className="underline">
            {count(twin.dropped)} of {count(twin.slots)} dropped
          </Link>
          {forecast &&
            `; the forecast is off by ${count(Math.abs(forecast.dropped - twin.dropped))} slots, ${percent(Math.abs(forecast.dropped - twin.dropped) / Math.max(1, twin.slots))} of them`}
          .
        </p>
      )}
      {restsOn.length > 0 && (
        <details className="text-xs text-muted">
          <summary>Rests on</summary>
          <ul className="list-disc pl-4">
            {restsOn.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}
