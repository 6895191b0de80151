export { type AnswerRequest, type OpenRequest, type Page, type PagePicture, PICTURE_TYPES, type PictureType, type Place, type PublishRequest, readEvent, type RemarkRequest, requests, REVIEW_LIMITS, type ReviewEvent, type Role } from './events.ts';
export { remarksFile, said, withRemarksFile } from './exchange.ts';
export { remarksCsv, remarksMarkdown } from './export.ts';
export { type Answer, latestVersion, pageOf, readReview, type Remark, remarksOn, type Review, reviewOf, strayRemarks, type Version, withEvent } from './review.ts';
