export { type Command, type CommandHost, commands, keyLabel, stageLabel } from './commands.ts';
export { edit, type History, type HistoryStep, redo, replaced, startHistory, undo } from './history.ts';
export { type Compare, createSession, isStage, type MaskDisplay, type MaskSubject, type Session, type SessionActions, type SessionStore, type StageId, STAGES } from './session.ts';
