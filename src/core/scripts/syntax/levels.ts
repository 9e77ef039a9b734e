// Made by `npm run tables` from the browser compatibility data 8.1.9; do not edit.

/** For each year of the language, the first version of each browser that knows its syntax in full. */
export const syntaxLevels: Readonly<Record<number, Readonly<Record<string, string>>>> = {
  2015: { chrome: '49', chrome_android: '49', edge: '14', firefox: '45', firefox_android: '45', opera: '37', opera_android: '37', safari: '10', safari_ios: '10', samsunginternet_android: '5.0', webview_android: '49' },
  2016: { chrome: '52', chrome_android: '52', edge: '14', firefox: '52', firefox_android: '52', opera: '39', opera_android: '41', safari: '10.1', safari_ios: '10.3', samsunginternet_android: '6.0', webview_android: '51' },
  2017: { chrome: '58', chrome_android: '58', edge: '15', firefox: '52', firefox_android: '52', opera: '45', opera_android: '43', safari: '10.1', safari_ios: '10.3', samsunginternet_android: '7.0', webview_android: '58' },
  2018: { chrome: '63', chrome_android: '63', edge: '79', firefox: '57', firefox_android: '57', opera: '50', opera_android: '46', safari: '12', safari_ios: '12', samsunginternet_android: '8.2', webview_android: '63' },
  2019: { chrome: '66', chrome_android: '66', edge: '79', firefox: '58', firefox_android: '58', opera: '53', opera_android: '47', safari: '11.1', safari_ios: '11.3', samsunginternet_android: '9.0', webview_android: '66' },
  2020: { chrome: '80', chrome_android: '80', edge: '80', firefox: '80', firefox_android: '80', opera: '67', opera_android: '57', safari: '14.1', safari_ios: '14.5', samsunginternet_android: '13.0', webview_android: '80' },
  2021: { chrome: '85', chrome_android: '85', edge: '85', firefox: '79', firefox_android: '79', opera: '71', opera_android: '60', safari: '14', safari_ios: '14', samsunginternet_android: '14.0', webview_android: '85' },
  2022: { chrome: '94', chrome_android: '94', edge: '94', firefox: '93', firefox_android: '93', opera: '80', opera_android: '66', safari: '16.4', safari_ios: '16.4', samsunginternet_android: '17.0', webview_android: '94' },
};

/** For syntax that cannot be compiled, the first version of each browser that knows it. */
export const lastingSyntax = {
  modules: { chrome: '61', chrome_android: '61', edge: '16', firefox: '60', firefox_android: '60', opera: '48', opera_android: '45', safari: '10.1', safari_ios: '10.3', samsunginternet_android: '8.0', webview_android: '61' },
  'top-level await': { chrome: '89', chrome_android: '89', edge: '89', firefox: '89', firefox_android: '89', opera: '75', opera_android: '63', safari: '15', safari_ios: '15', samsunginternet_android: '15.0', webview_android: '89' },
  bigint: { chrome: '67', chrome_android: '67', edge: '79', firefox: '68', firefox_android: '68', opera: '54', opera_android: '48', safari: '14', safari_ios: '14', samsunginternet_android: '9.0', webview_android: '67' },
  'import()': { chrome: '63', chrome_android: '63', edge: '79', firefox: '67', firefox_android: '67', opera: '50', opera_android: '46', safari: '11.1', safari_ios: '11.3', samsunginternet_android: '8.0', webview_android: '63' },
  'import.meta': { chrome: '64', chrome_android: '64', edge: '79', firefox: '62', firefox_android: '62', opera: '51', opera_android: '47', safari: '11.1', safari_ios: '12', samsunginternet_android: '9.0', webview_android: '64' },
  'export namespace': { chrome: '72', chrome_android: '72', edge: '79', firefox: '80', firefox_android: '80', opera: '60', opera_android: '51', safari: '14.1', safari_ios: '14.5', samsunginternet_android: '11.0', webview_android: '72' },
  'import attributes': { chrome: '123', chrome_android: '123', edge: '123', firefox: '138', firefox_android: '138', opera: '109', opera_android: '82', safari: '17.2', safari_ios: '17.2', samsunginternet_android: '27.0', webview_android: '123' },
  'look-behind': { chrome: '62', chrome_android: '62', edge: '79', firefox: '78', firefox_android: '79', opera: '49', opera_android: '46', safari: '16.4', safari_ios: '16.4', samsunginternet_android: '8.0', webview_android: '62' },
  'named group': { chrome: '64', chrome_android: '64', edge: '79', firefox: '78', firefox_android: '79', opera: '51', opera_android: '47', safari: '11.1', safari_ios: '11.3', samsunginternet_android: '9.0', webview_android: '64' },
  'unicode property': { chrome: '64', chrome_android: '64', edge: '79', firefox: '78', firefox_android: '79', opera: '51', opera_android: '47', safari: '11.1', safari_ios: '11.3', samsunginternet_android: '9.0', webview_android: '64' },
  modifier: { chrome: '125', chrome_android: '125', edge: '125', firefox: '132', firefox_android: '132', opera: '111', opera_android: '83', safari: '26', safari_ios: '26', samsunginternet_android: '27.0', webview_android: '125' },
  'flag y': { chrome: '49', chrome_android: '49', edge: '13', firefox: '3', firefox_android: '4', opera: '36', opera_android: '36', safari: '10', safari_ios: '10', samsunginternet_android: '5.0', webview_android: '49' },
  'flag u': { chrome: '50', chrome_android: '50', edge: '12', firefox: '46', firefox_android: '46', opera: '37', opera_android: '37', safari: '10', safari_ios: '10', samsunginternet_android: '5.0', webview_android: '50' },
  'flag s': { chrome: '62', chrome_android: '62', edge: '79', firefox: '78', firefox_android: '79', opera: '49', opera_android: '46', safari: '11.1', safari_ios: '11.3', samsunginternet_android: '8.0', webview_android: '62' },
  'flag d': { chrome: '90', chrome_android: '90', edge: '90', firefox: '88', firefox_android: '88', opera: '76', opera_android: '64', safari: '15', safari_ios: '15', samsunginternet_android: '15.0', webview_android: '90' },
  'flag v': { chrome: '112', chrome_android: '112', edge: '112', firefox: '116', firefox_android: '116', opera: '98', opera_android: '75', safari: '17', safari_ios: '17', samsunginternet_android: '23.0', webview_android: '112' },
} satisfies Readonly<Record<string, Readonly<Record<string, string>>>>;
