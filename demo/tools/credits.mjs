/** Puts the people of the observatory below a page. */
export default ({ text }, { read }) => withCredits(text, JSON.parse(new TextDecoder().decode(read('data/credits.json'))));

export const withCredits = (page, { season, people }) =>
  page.replace('</footer>', ` Season ${season}: ${people.join(', ')}.</footer>`);
