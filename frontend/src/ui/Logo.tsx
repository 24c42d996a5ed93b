/** Nod's mark, in the colour of its acts by day and by night. */
export function Logo({ className }: { className: string }) {
  return (
    <svg
      viewBox="0 0 32 32"
      aria-hidden
      className={`text-plum ${className}`}
      fill="none"
      stroke="currentColor"
    >
      <rect x="2" y="2" width="28" height="28" strokeWidth="3" />
      <path d="M10 23V9l12 14V9" strokeWidth="3" />
    </svg>
  )
}
