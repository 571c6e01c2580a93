/** Returns the id of the element of a chat's lane. */
export const laneElement = (chatId: string) => `lane-${chatId}`;
