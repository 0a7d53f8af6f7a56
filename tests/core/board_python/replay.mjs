// Runs a program under the small runtime itself: what it asks must be what it asked on the double, in that order; it is
// answered the same.
import { readFileSync } from "node:fs";
const [runtime, folder, here] = process.argv.slice(2);
const { loadMicroPython } = await import(`${runtime}/micropython.mjs`);
const python = await loadMicroPython({ heapsize: 64 * 1024 * 1024, stdout: (line) => console.log(line) });
for (const name of ["program.py", "helpers.py", "hardware.py", "log"])
  python.FS.writeFile(`/${name}`, readFileSync(`${folder}/${name}`));
for (const name of ["pins.py", "replay.py"]) python.FS.writeFile(`/${name}`, readFileSync(`${here}/${name}`));
python.runPython("import sys\nsys.path.insert(0, '/')\nimport replay\nreplay.main()");
