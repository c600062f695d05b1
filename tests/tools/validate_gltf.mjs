// Prints what the validator of the glTF standard's own makers finds in a file, as JSON.
import fs from "fs";
import { createRequire } from "module";

const [folder, file] = process.argv.slice(2);
const validator = createRequire(folder + "/")("gltf-validator");
const report = await validator.validateBytes(new Uint8Array(fs.readFileSync(file)));
console.log(JSON.stringify({ issues: report.issues, info: report.info }));
