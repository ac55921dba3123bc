import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: ['node-av', 'pg', 'pg-boss', 'systeminformation'],
  poweredByHeader: false,
  devIndicators: false,
  // `./navvy test` checks all types; the build would only do it again.
  typescript: { ignoreBuildErrors: true },
};

export default config;
