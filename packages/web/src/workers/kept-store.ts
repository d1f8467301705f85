/** The browser's own store of pictures that were seen. */
export const PICTURES = "yelm-pictures";

export const pictureKey = (printId: string): string => `/kept-pictures/${encodeURIComponent(printId)}`;
