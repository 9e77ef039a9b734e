// The minimum work of any tool to find that nothing has changed: lists folders and stats every file in them.
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
