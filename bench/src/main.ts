process.stdout.write('no benches yet\n');
