// Opens a Parquet file with readers that did not write it, older ones at that, and prints a line
// for each: its name, the rows, the columns or some sums.
import fs from "node:fs";
import { readParquet } from "parquet-wasm";
import polars from "nodejs-polars";

const file = process.argv[2];
const table = readParquet(new Uint8Array(fs.readFileSync(file)));
const rows = table.recordBatches().reduce((sum, batch) => sum + batch.numRows, 0);
console.log(`parquet-wasm ${rows} ${table.recordBatch(0).numColumns}`);

const flat = process.argv.slice(3);
const frame = polars.readParquet(file, { columns: flat });
console.log(`polars ${frame.height} ${flat.map((name) => frame.getColumn(name).sum()).join(" ")}`);
