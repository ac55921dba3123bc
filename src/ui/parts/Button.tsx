import { clsx } from 'clsx';
import type { ButtonHTMLAttributes, Ref } from 'react';

const looks = {
  plain: 'border border-edge bg-raised hover:border-ink',
  main: 'border border-transparent bg-signal text-signal-ink font-semibold hover:brightness-110',
  quiet: 'border border-transparent text-muted hover:text-ink hover:bg-raised',
};

interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  readonly look?: keyof typeof looks;
  readonly ref?: Ref<HTMLButtonElement>;
}

export function Button({ look = 'plain', className, type = 'button', ...rest }: ButtonProps) {
  return <button type={type} className={clsx('inline-flex h-9 items-center gap-2 whitespace-nowrap px-3 text-sm disabled:cursor-not-allowed disabled:opacity-50', looks[look], className)} {...rest} />;
}
