import packageFile from '../../../package.json' with { type: 'json' };

/** Navvy's version, as recorded with every trial. */
export function softwareVersion(): string {
  return packageFile.version;
}
