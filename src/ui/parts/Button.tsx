import { clsx } from 'clsx';
import Link from 'next/link';
import type { ButtonHTMLAttributes, ReactNode, Ref } from 'react';
import { isAddress } from '../api';

const looks = {
  plain: 'border border-edge bg-raised hover:border-ink',
  main: 'border border-transparent bg-signal text-signal-ink font-semibold hover:brightness-110',
  quiet: 'border border-transparent text-muted hover:text-ink hover:bg-raised',
};

const shape = 'inline-flex h-9 items-center gap-2 whitespace-nowrap px-3 text-sm';

interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  readonly look?: keyof typeof looks;
  readonly ref?: Ref<HTMLButtonElement>;
}

export function Button({ look = 'plain', className, type = 'button', ...rest }: ButtonProps) {
  return (
    <button
      type={type}
      className={clsx(shape, 'disabled:cursor-not-allowed disabled:opacity-50', looks[look], className)}
      {...rest}
    />
  );
}

/** A way to another page, or to a file that the server sends, with the look of a button. */
export function LinkButton({
  href,
  look = 'plain',
  className: own,
  children,
}: {
  href: string;
  look?: keyof typeof looks;
  className?: string;
  children: ReactNode;
}) {
  const className = clsx(shape, looks[look], own);
  return isAddress(href) ? (
    <a href={href} className={className}>
      {children}
    </a>
  ) : (
    <Link prefetch={false} href={href} className={className}>
      {children}
    </Link>
  );
}
