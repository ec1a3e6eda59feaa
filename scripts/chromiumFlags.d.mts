export declare const CHROMIUM_FLAGS: string[]
export declare const CHROMIUM: string
/** The same without its windows. */
export declare const HEADLESS_CHROMIUM: string
