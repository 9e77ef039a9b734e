/** The files of a small site to start with, by path. */
export const starterFiles: Readonly<Record<string, string>> = {
  'anvil.yaml': `# yaml-language-server: $schema=./anvil.schema.json

browsers: defaults

profiles:
  development: { maps: file }
  production: { names: hashed } # names change with contents, so that browsers can keep files

pipelines:
  styles:
    description: The style sheet of all pages
    from: styles/*.css
    steps: [link, prefix, { minify: { only: production } }]
    to: site/css

  scripts:
    description: The script of all pages, with what it imports
    from: scripts/*.js
    steps: [link, { minify: { only: production } }]
    to: site/js

  pages:
    from: pages/**/*.html
    to: site

serve:
  folder: site
`,
  'pages/index.html': `<!doctype html>
<html lang="en">
  <head>
    <meta charset="utf-8">
    <meta name="viewport" content="width=device-width">
    <title>A new site</title>
    <link rel="stylesheet" href="css/main.css">
    <script type="module" src="js/main.js"></script>
  </head>
  <body>
    <h1>A new site</h1>
    <p>Change <code>pages/index.html</code>, and this page follows. <span id="clock"></span></p>
  </body>
</html>
`,
  'styles/main.css': `:root {
  color-scheme: light dark;
  font-family: system-ui, sans-serif;
}

body {
  max-width: 40rem;
  margin: 4rem auto;
  padding: 0 1rem;
}
`,
  'scripts/main.js': `import { timeOfDay } from './clock/time-of-day.js';

const clock = document.querySelector('#clock');
clock.textContent = \`It is \${timeOfDay(new Date())}.\`;
`,
  'scripts/clock/time-of-day.js': `export const timeOfDay = (date) => date.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });
`,
};
