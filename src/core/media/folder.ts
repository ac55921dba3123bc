/** Whether a folder that is meant to lie below another goes up on its way. */
export const leadsOut = (folder: string): boolean => folder.split('/').includes('..');

/** What to do about it. */
export const folderLeadsOut = 'Name a folder below the volume, without "..".';
