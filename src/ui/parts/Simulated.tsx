import type { StorageModel } from '@/core/storage/model';
import { modelLabel } from '@/core/storage/standInChoice';

/** Says wherever a stand-in's figures show that they are simulated; on pointing, by which model. */
export function Simulated({ model }: { model?: StorageModel | null }) {
  return (
    <span
      title={model ? modelLabel(model) : undefined}
      className="inline-block whitespace-nowrap border border-dashed border-signal-text px-1 text-xs leading-snug text-signal-text"
    >
      simulated
    </span>
  );
}
