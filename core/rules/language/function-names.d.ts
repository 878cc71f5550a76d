export declare const functionNames: Set<string>;
export declare const functionName: (name: string) => number;
