/** What a whole run takes, and what is enough to see that it runs. */
export declare function size(whole: number, least: number): number
