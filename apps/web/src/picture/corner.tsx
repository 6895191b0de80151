/** What is said in the upper left corner of the picture. */
export const Corner = ({ children, below = false }: { children: React.ReactNode; below?: boolean }) => <div className={`pointer-events-none absolute left-2 border border-ink bg-sheet px-2 py-0.5 ${below ? 'top-10' : 'top-2'}`}>{children}</div>;
