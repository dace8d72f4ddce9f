/** A spreadsheet must not take what somebody wrote for a formula: no cell begins as one does; what would be taken for one that was kept from it gets another mark. */
export const unarmed = (text: string) => (/^'*[=+\-@\t\r]/.test(text) ? `'${text}` : text);
/** What was meant by such a cell. */
export const armedAgain = (cell: string) => cell.replace(/^'(?='*[=+\-@\t\r])/, '');
