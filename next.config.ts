import { existsSync } from 'node:fs';
import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: ['node-av', 'pg', 'pg-boss', 'systeminformation'],
  poweredByHeader: false,
  devIndicators: false,
  // `./navvy test` checks all types; the build would only do it again.
  typescript: { ignoreBuildErrors: true },
  // Whoever installs Navvy builds it: a third of the build's time went into maps and small code for a server on the same machine,
  // and into notes for a second build, which only those who change Navvy make.
  experimental: {
    turbopackSourceMaps: false,
    turbopackScopeHoisting: false,
    turbopackMinify: { server: false },
    turbopackFileSystemCacheForBuild: existsSync('.next/BUILD_ID'),
  },
};

export default config;
