import { Problem } from '@/ui/parts/Problem';

export default function NotFound() {
  return (
    <Problem
      title="Nothing here"
      message="There is nothing at this address. It may have been removed; the sections on the left lead to what there is."
    />
  );
}
