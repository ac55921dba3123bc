'use client';
import { useTheme } from 'next-themes';
import { useRouter } from 'next/navigation';
import { useMemo, useState, type ReactNode } from 'react';
import { Tooltip } from 'radix-ui';
import type { Status } from '@/server/platform/rig';
import { useArrival } from '../keys/comingUp';
import { CommandsProvider, useCommands } from '../keys/commands';
import { ConditionStrip } from './ConditionStrip';
import { EventsProvider } from './events';
import { FirstSteps } from './FirstSteps';
import { KeyHelp, Palette } from './Palette';
import { Sections, sections } from './Sections';
import { StatusProvider } from './status';

/** The frame round every page: conditions on top, sections in the order of work at the side. */
export function Shell({
  initialStatus,
  hidesFirstSteps,
  children,
}: {
  initialStatus: Status | null;
  hidesFirstSteps: boolean;
  children: ReactNode;
}) {
  return (
    <CommandsProvider>
      <EventsProvider>
        <StatusProvider initial={initialStatus}>
          <Tooltip.Provider delayDuration={300}>
            <Frame hidesFirstSteps={hidesFirstSteps}>{children}</Frame>
          </Tooltip.Provider>
        </StatusProvider>
      </EventsProvider>
    </CommandsProvider>
  );
}

function Frame({ hidesFirstSteps, children }: { hidesFirstSteps: boolean; children: ReactNode }) {
  const [palette, setPalette] = useState(false);
  const [help, setHelp] = useState(false);
  const router = useRouter();
  const { theme, setTheme } = useTheme();
  const commands = useMemo(
    () => [
      ...sections.map(({ href, name, key }) => ({
        id: `go-${name}`,
        label: `Go to ${name}`,
        group: 'Everywhere',
        key,
        run: () => router.push(href),
      })),
      {
        id: 'palette',
        label: 'Find an action',
        group: 'Everywhere',
        key: 'Ctrl+k',
        run: () => setPalette(true),
      },
      {
        id: 'keys',
        label: 'Show the keys of this screen',
        group: 'Everywhere',
        key: '?',
        run: () => setHelp(true),
      },
      {
        id: 'theme',
        label: `Use the ${theme === 'light' ? 'dark' : 'light'} theme`,
        group: 'Everywhere',
        run: () => setTheme(theme === 'light' ? 'dark' : 'light'),
      },
    ],
    [router, theme, setTheme],
  );
  useCommands(commands);
  useArrival();
  return (
    <div className="flex h-full min-h-0 flex-col">
      <a
        href="#content"
        className="sr-only focus:not-sr-only focus:absolute focus:z-10 focus:bg-surface focus:p-2"
      >
        Skip to content
      </a>
      <ConditionStrip />
      <div className="flex min-h-0 flex-1">
        <Sections onPalette={() => setPalette(true)} onKeys={() => setHelp(true)} />
        <main id="content" tabIndex={-1} className="min-w-0 flex-1 overflow-auto px-6 py-5 outline-none">
          <FirstSteps isPutAway={hidesFirstSteps} />
          {children}
        </main>
      </div>
      <Palette open={palette} onOpenChange={setPalette} />
      <KeyHelp open={help} onOpenChange={setHelp} />
    </div>
  );
}
