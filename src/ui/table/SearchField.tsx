'use client';
import { clsx } from 'clsx';
import { useEffect, useEffectEvent, useRef, useState } from 'react';

/** Time after the last key before a list is asked for again, ms. */
const pause = 60;

/** Words that a list is narrowed by; it is asked for at the first key, and then when the typing rests. */
export function SearchField({
  label,
  placeholder,
  value,
  onChange,
  className = 'w-52',
}: {
  label: string;
  placeholder: string;
  value: string;
  onChange: (value: string) => void;
  className?: string;
}) {
  const [typed, setTyped] = useState(value);
  const [known, setKnown] = useState(value);
  const [told, setTold] = useState(value);
  if (value !== known) {
    setKnown(value);
    // What was told from here is no news: more may have been typed since.
    if (value !== told) setTyped(value);
  }
  const lastAsked = useRef(-Infinity);
  const tell = useEffectEvent(onChange);
  useEffect(() => {
    if (typed.trim() === value) return undefined;
    const timer = setTimeout(
      () => {
        lastAsked.current = performance.now();
        setTold(typed.trim());
        tell(typed.trim());
      },
      performance.now() - lastAsked.current > 5 * pause ? 0 : pause,
    );
    return () => clearTimeout(timer);
  }, [typed, value]);
  return (
    <input
      type="search"
      aria-label={label}
      placeholder={placeholder}
      value={typed}
      onChange={(event) => setTyped(event.target.value)}
      className={clsx('h-8 border border-edge bg-ground px-2 text-sm placeholder:text-muted', className)}
    />
  );
}
