import { type Override, schemeOf, slotKey, slotWords } from '@tazzel/core';
import { X } from 'lucide-react';
import { Button, IconButton } from '../ui/button.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument } from '../workspace/context.ts';

/** What is different in the scheme that is shown, each difference to be taken back; what is gone is named. */
export function SchemeSection() {
  const document = useDocument();
  const actions = useActions();
  const scheme = schemeOf(document, document.schemes.chosenId);
  if (!scheme) return null;
  const words = scheme.overrides.map((override) => ({ override, said: slotWords(document, override) }));
  const lost = words.flatMap(({ override, said }) => (said === null ? [override] : []));
  // What differs in one place stands in one line.
  const placeOf = ({ at }: Override) => slotKey({ at, what: '' });
  const rows = [...new Set(scheme.overrides.map(placeOf))].flatMap((place) => {
    const group = words.flatMap(({ override, said }) => (said && placeOf(override) === place ? [{ override, said }] : []));
    return group.length > 0 ? [{ place, of: group[0].said.of, said: group.map(({ said }) => said), overrides: group.map(({ override }) => override) }] : [];
  });
  const takeBack = (overrides: readonly Override[]) => actions.edit({ type: 'remove-overrides', schemeId: scheme.id, slots: overrides.map(({ at, what }) => ({ at, what })) });
  return (
    <Section title={`Different in ${scheme.name}`}>
      {words.length === 0 && <p className="text-faint">Nothing yet. Whatever you change now, in any stage, belongs to this scheme; everything else is shared by all.</p>}
      <ul aria-label="Differences">
        {rows.map(({ place, of, said, overrides }) => (
          <li key={place} className="flex items-center gap-2 border-b border-hair py-0.5 last:border-b-0">
            <span className="min-w-0 flex-1">
              <span className="block truncate">{of}</span>
              <span className="block text-[12px] text-faint">
                {said.map(({ label, value }, i) => (
                  <span key={label}>
                    {i > 0 && ', '}
                    {label} <span className="figure">{value}</span>
                  </span>
                ))}
              </span>
            </span>
            <IconButton label={`Take back what is different of ${of}`} className="!size-[21px]" onClick={() => takeBack(overrides)}>
              <X size={13} aria-hidden />
            </IconButton>
          </li>
        ))}
      </ul>
      {lost.length > 0 && (
        <p role="status" className="pt-1.5 text-[12px] text-warn">
          {lost.length === 1 ? 'One difference is' : `${lost.length} differences are`} about what is no longer in the document.{' '}
          <Button className="h-6 px-2 text-ink" onClick={() => takeBack(lost)}>
            Remove {lost.length === 1 ? 'it' : 'them'}
          </Button>
        </p>
      )}
    </Section>
  );
}
