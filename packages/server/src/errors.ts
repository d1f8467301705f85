/** Every code the server answers with, and its HTTP status. */
export const ERROR_STATUS = {
  bad_request: 400,
  bad_recipe: 400,
  unreadable_file: 422,
  unsupported_file: 415,
  too_large: 413,
  forbidden: 403,
  not_found: 404,
  stale_revision: 409,
  conflict: 409,
  damaged_file: 500,
  disk_full: 507,
  timeout: 504,
  in_use: 409,
  internal: 500,
} as const;
export type ErrorCode = keyof typeof ERROR_STATUS;

/** What may accompany an error. */
export interface ErrorDetail {
  /** The field that was wrong. */
  readonly field?: string;
  /** What to do. */
  readonly hint?: string;
  /** State that the caller needs to go on, such as the current revision. */
  readonly current?: unknown;
}

/** An error that the user can do something about: "Expected X for NAME but received Y". */
export class AppError extends Error {
  readonly code: ErrorCode;
  readonly detail: ErrorDetail;

  constructor(code: ErrorCode, message: string, detail: ErrorDetail = {}, options?: ErrorOptions) {
    super(message, options);
    this.name = "AppError";
    this.code = code;
    this.detail = detail;
  }

  get status(): number {
    return ERROR_STATUS[this.code];
  }
}

/** What is told of a fault that nobody can do anything about here; what it was, paths and all, is for the log only. */
export const INTERNAL_WORDS = "Something went wrong on the server; it is in its log.";

/** An error as it crosses a thread: workers send this shape and {@link reviveError} turns it back. */
export interface ErrorMessage {
  readonly code: ErrorCode;
  readonly message: string;
  readonly detail: ErrorDetail;
  /** For the log. */
  readonly cause?: string;
}

export function toErrorMessage(error: unknown): ErrorMessage {
  if (error instanceof AppError) return { code: error.code, message: error.message, detail: error.detail };
  const cause = error instanceof Error ? (error.stack ?? error.message) : String(error);
  return { code: "internal", message: INTERNAL_WORDS, detail: {}, cause };
}

export function reviveError({ code, message, detail, cause }: ErrorMessage): AppError {
  return new AppError(code, message, detail, cause === undefined ? undefined : { cause });
}
