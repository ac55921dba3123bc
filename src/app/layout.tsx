import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import { ThemeProvider } from 'next-themes';
import './globals.css';
import { earlyScript } from '@/ui/shell/earlyInput';
import { Shell } from '@/ui/shell/Shell';
import { statusOrNull } from '@/server/page';

export const metadata: Metadata = {
  title: { default: 'Navvy', template: '%s · Navvy' },
  description: 'Measured playback for post-production',
};
export const dynamic = 'force-dynamic';

export default async function RootLayout({ children }: { children: ReactNode }) {
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <script dangerouslySetInnerHTML={{ __html: earlyScript }} />
        <ThemeProvider
          attribute="data-theme"
          defaultTheme="dark"
          themes={['dark', 'light']}
          enableSystem={false}
          disableTransitionOnChange
        >
          <Shell initialStatus={await statusOrNull()}>{children}</Shell>
        </ThemeProvider>
      </body>
    </html>
  );
}
