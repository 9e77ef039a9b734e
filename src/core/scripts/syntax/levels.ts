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
