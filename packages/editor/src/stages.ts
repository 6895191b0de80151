/** The stages of the work, in their order. */
export const stages = [
  { id: 'elements', label: 'Elements' },
  { id: 'build-up', label: 'Build-up' },
  { id: 'light', label: 'Light' },
  { id: 'surfaces', label: 'Surfaces' },
  { id: 'sky', label: 'Sky & air' },
  { id: 'entourage', label: 'Entourage' },
  { id: 'lens', label: 'Lens' },
  { id: 'deliver', label: 'Deliver' },
] as const;

export type StageId = (typeof stages)[number]['id'];
export const isStage = (value: string | undefined): value is StageId => stages.some(({ id }) => id === value);
