import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: ['node-av', 'pg', 'pg-boss', 'systeminformation'],
  poweredByHeader: false,
  devIndicators: false,
};

export default config;
