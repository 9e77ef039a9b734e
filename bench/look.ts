// What any tool has to do to know that nothing changed: lists folders and looks at every file in them.
import { readdirSync, statSync } from 'node:fs';

let size = 0;

function look(folder: string): void {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = `${folder}/${entry.name}`;
    if (entry.isDirectory()) look(path);
    else size += statSync(path).size;
  }
}

for (const folder of process.argv.slice(2)) look(folder);
console.log(size);
