export { type Command, type CommandHost, commands, keyLabel, stageLabel } from './commands.ts';
export { edit, type History, type HistoryStep, redo, replaced, startHistory, undo } from './history.ts';
export { type Compare, createSession, isStage, type LookAt, type MaskDisplay, type MaskSubject, type SelectMode, type Session, type SessionActions, type SessionStore, shownLayers, type StageId, STAGES } from './session.ts';
