/** How much of what others wrote, or say, was read the same; `npm run bench -- agreement` gathers these lines. */
export function tellAgreement(area: string, agreed: number, refused: number, all: number): void {
  process.stdout.write(`AGREEMENT ${JSON.stringify({ area, agreed, refused, all })}\n`);
}
