import type { Metadata } from 'next';
import { cookies, headers } from 'next/headers';
import type { ReactNode } from 'react';
import { ThemeProvider } from 'next-themes';
import './globals.css';
import { DropFiles } from '@/ui/exchange/DropFiles';
import { earlyScript } from '@/ui/keys/earlyInput';
import { firstStepsCookie } from '@/ui/shell/cookies';
import { Shell } from '@/ui/shell/Shell';
import { statusOrNull } from '@/server/platform/page';

export const metadata: Metadata = {
  title: { default: 'Navvy', template: '%s · Navvy' },
  description: 'Measured playback for post-production',
};
export const dynamic = 'force-dynamic';

export default async function RootLayout({ children }: { children: ReactNode }) {
  // The number that lets this page's own scripts run; see `server/web`.
  const nonce = (await headers()).get('x-nonce') ?? '';
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: earlyScript }} />
        <ThemeProvider
          attribute="data-theme"
          defaultTheme="dark"
          themes={['dark', 'light']}
          enableSystem={false}
          disableTransitionOnChange
          nonce={nonce}
        >
          <Shell
            initialStatus={await statusOrNull()}
            hidesFirstSteps={(await cookies()).has(firstStepsCookie)}
          >
            {children}
            <DropFiles />
          </Shell>
        </ThemeProvider>
      </body>
    </html>
  );
}
