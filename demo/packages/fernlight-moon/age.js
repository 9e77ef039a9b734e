const month = 29.530588;
const newMoon = Date.UTC(2026, 0, 18, 19, 52) / 86_400_000;

/** The age of the moon in days, from one new moon to the next. */
export const ageOf = (date) => (((date.getTime() / 86_400_000 - newMoon) % month) + month) % month;
