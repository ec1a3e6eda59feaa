export declare const CHROMIUM_FLAGS: string[]
export declare const CHROMIUM: string
