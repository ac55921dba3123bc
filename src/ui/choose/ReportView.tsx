'use client';
import { count, dateTime, memory, money } from '@/core/format';
import { Download, Printer } from 'lucide-react';
import Link from 'next/link';
import { useRef } from 'react';
import { headroomWords } from '@/core/choose/setups';
import { doubtOf } from '@/core/rig/doubt';
import { answerSentence } from '@/core/sentences/playback';
import { nameOf, rateOf, volumesOf } from '@/core/timeline/subject';
import { toNumber } from '@/core/time/rational';
import type { ReportPage } from '@/server/decide/report';
import { RibbonLegend } from '../charts/Legend';
import { RibbonSvg } from '../charts/RibbonSvg';
import { useTraceView } from '../compare/RibbonStack';
import { Button, LinkButton } from '../parts/Button';
import { GradeMark } from '../parts/GradeMark';
import { Simulated } from '../parts/Simulated';
import { saveFile } from '../table/export';
import { coldWords } from '../trialWords';
import { BriefLine } from './BriefView';
import { DecisionMap } from './DecisionMap';
import { HeadroomChart } from './HeadroomChart';
import { daySpan } from './words';
import { addressOf } from '../api';

/** A page to hand on: question, answer, evidence, conditions, method. */
export function ReportView({ report }: { report: ReportPage }) {
  const { brief, decision, evidence, rigs, printedAt } = report;
  return (
    <article className="mx-auto flex max-w-4xl flex-col gap-6">
      <div data-no-print className="flex items-center gap-2">
        <Link
          prefetch={false}
          href={`/choose/${brief.id}`}
          className="mr-auto text-sm text-muted underline decoration-edge underline-offset-4"
        >
          Back to the map
        </Link>
        <LinkButton href={addressOf('GET /api/bundles')} look="quiet">
          <Download aria-hidden className="size-4" />
          Export results
        </LinkButton>
        <Button look="main" onClick={() => window.print()}>
          <Printer aria-hidden className="size-4" />
          Print
        </Button>
      </div>
      <header>
        <p className="text-sm text-muted">
          {brief.name}, {dateTime(printedAt)}
        </p>
        <h1>{brief.document.question || 'Which format and which volume for this job?'}</h1>
        <BriefLine page={{ brief, decision }} />
      </header>
      <Answer decision={decision} />
      <section aria-label="Evidence">
        <h2 className="mb-2">Evidence</h2>
        <DecisionMap decision={decision} briefId={brief.id} />
        <Chart name="navvy-headroom">
          <HeadroomChart decision={decision} />
        </Chart>
      </section>
      {evidence.length > 0 && (
        <section aria-label="Runs">
          <h2>Runs that the measured cells rest on</h2>
          {evidence.map((run) => (
            <EvidenceRun
              key={run.id}
              run={run}
              rigName={rigs.find(({ id }) => id === run.rigId)?.name ?? ''}
              simulatedRig={rigs.find(({ id }) => id === run.rigId)?.imported?.simulated ?? false}
            />
          ))}
          <div className="mt-2">
            <RibbonLegend />
          </div>
        </section>
      )}
      <Conditions rigs={rigs} />
      <Method />
    </article>
  );
}

/** The answer, what meets the brief, and where nothing does, what would. */
function Answer({ decision }: Pick<ReportPage, 'decision'>) {
  const meeting = decision.setUps.filter(({ meets }) => meets === true);
  return (
    <section aria-label="Answer">
      <h2>Answer</h2>
      <p className="mt-1 text-lg">{decision.sentence}</p>
      {meeting.length > 0 && (
        <ol className="mt-2 list-decimal pl-6 text-sm">
          {meeting.slice(0, 5).map((setUp) => (
            <li key={`${setUp.name} ${setUp.form}`}>
              {setUp.name} with {setUp.form}: {setUp.grade},{' '}
              {setUp.headroom === null
                ? 'headroom not known'
                : headroomWords(setUp.headroom, setUp.underMargin)}{' '}
              ({setUp.basis}),{' '}
              {setUp.cost === null
                ? 'cost not known'
                : setUp.cost === 0
                  ? 'nothing to buy'
                  : `cost ${money(setUp.cost, setUp.currency)}`}
              ; copying a day {daySpan(setUp.copySecondsPerDay)}, proxies a day{' '}
              {setUp.proxySecondsPerDay === 0 ? 'none' : daySpan(setUp.proxySecondsPerDay)}
            </li>
          ))}
        </ol>
      )}
      {meeting.length === 0 && decision.setUps[0] && decision.setUps[0].cures.length > 0 && (
        <ul className="mt-2 list-disc pl-6 text-sm">
          {decision.setUps[0].cures.map((cure) => (
            <li key={cure}>{cure}</li>
          ))}
        </ul>
      )}
    </section>
  );
}

function Conditions({ rigs }: Pick<ReportPage, 'rigs'>) {
  return (
    <section aria-label="Conditions">
      <h2>Conditions</h2>
      <ul className="mt-1 list-disc pl-5 text-sm">
        {rigs.map(({ id, name, imported, identity }) => (
          <li key={id}>
            {name}
            {imported
              ? `, imported${imported.simulated ? ', simulated: computed by a model, not measured' : ''}`
              : ', this rig'}
            : {identity.processor}, {identity.logicalCores} cores, {memory(identity.memoryBytes)},{' '}
            {identity.system}
          </li>
        ))}
      </ul>
      <p className="mt-1 text-sm text-muted">
        Each run names its own conditions on its page; runs that are in doubt, because others disturbed them
        or the machine was unsteady, say so above.
      </p>
    </section>
  );
}

function EvidenceRun({
  run,
  rigName,
  simulatedRig,
}: {
  run: ReportPage['evidence'][number];
  rigName: string;
  simulatedRig: boolean;
}) {
  const view = useTraceView(run.id);
  const { names, simulated } = volumesOf(run.subject);
  const doubt = doubtOf(run.load);
  return (
    <div className="mt-3 break-inside-avoid">
      <div className="flex flex-wrap items-center gap-x-3 text-sm">
        {run.summary?.grade && <GradeMark grade={run.summary.grade} />}
        <Link
          prefetch={false}
          href={`/trials/${run.id}`}
          className="font-semibold underline decoration-edge underline-offset-4"
        >
          {nameOf(run.subject)}
        </Link>
        <span>
          from {names.join(', ')}
          {rigName && ` at ${rigName}`}, {run.settings.scale} scale
        </span>
        {(simulated || simulatedRig) && <Simulated />}
      </div>
      <p className="text-xs text-muted">
        {run.summary && answerSentence(run.summary, toNumber(rateOf(run.subject)))}{' '}
        {run.conditions?.run && coldWords(run.conditions.run.cold)}
        {doubt && ` In doubt, ${doubt.word}: ${doubt.reason}.`}
      </p>
      {view ? (
        <RibbonSvg
          data={view}
          most={view.slots}
          label={`Slots of ${nameOf(run.subject)} from ${names.join(', ')}: ${count(view.slots)}`}
        />
      ) : (
        <div className="h-10 border bg-surface" />
      )}
    </div>
  );
}

/** A chart with its file: the SVG as it stands, with the colours of the theme written in. */
function Chart({ name, children }: { name: string; children: React.ReactNode }) {
  const box = useRef<HTMLDivElement>(null);
  const save = () => {
    const svg = box.current?.querySelector('svg');
    if (!svg) return;
    const style = getComputedStyle(document.documentElement);
    const text = new XMLSerializer()
      .serializeToString(svg)
      .replace(
        /var\((--[a-z-]+)\)/g,
        (_, variable: string) => style.getPropertyValue(variable).trim() || 'currentColor',
      );
    saveFile(`${name}.svg`, text, 'image/svg+xml');
  };
  return (
    <div className="mt-3">
      <div ref={box}>{children}</div>
      <Button data-no-print look="quiet" className="h-7 px-2 text-xs" onClick={save}>
        <Download aria-hidden className="size-3.5" />
        Save as SVG
      </Button>
    </div>
  );
}

function Method() {
  return (
    <section aria-label="Method" className="text-sm">
      <h2>Method</h2>
      <ul className="mt-1 list-disc pl-5">
        <li>
          A run reads the real file cold through the volume, decodes it with the real codec, processes it to
          the playback scale and presents it against the clock. Every slot is recorded. Grades: solid without
          a drop; workable at most 1 % dropped and never more than 2 in a row; rough at most 10 %; stalled
          beyond.
        </li>
        <li>
          A measured cell shows the worst grade of its newest five runs, those in doubt only where there is no
          other, and the slot&rsquo;s length over the slowest stage&rsquo;s mean time as headroom.
        </li>
        <li>
          A cell by arithmetic sets the volume&rsquo;s sustained rate against the largest one-second window of
          the format times streams plus the margin, and the time of decoding (and of processing, where it was
          measured) against the slot&rsquo;s length; the least of them counts. Headroom is told without the
          margin.
        </li>
        <li>
          Simulated volumes are real files read at the pace of a model; simulated rigs are computed from the
          same model of playback and were not measured.
        </li>
        <li>
          Copying a day takes the slower of card and volume; making proxies takes what the last batch of that
          format took on the rig.
        </li>
      </ul>
    </section>
  );
}
