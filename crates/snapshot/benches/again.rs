//! Checking again after one file of many has become another one, beside checking everything.

use std::fs;
use std::path::Path;

use dulk_snapshot::Snapshot;

const SAIL: &str = include_str!("../../../demo/faulty/.github/workflows/sail.yml");

fn main() {
    divan::main();
}

fn lay_out(folder: &Path, files: usize) {
    let workflows = folder.join(".github/workflows");
    fs::create_dir_all(&workflows).expect("a folder");
    for number in 0..files {
        fs::write(workflows.join(format!("{number}.yml")), SAIL).expect("a file");
    }
}

#[divan::bench(args = [10, 100, 1_000], sample_count = 10)]
fn everything(bencher: divan::Bencher<'_, '_>, files: usize) {
    let dir = tempfile::tempdir().expect("a temporary folder");
    lay_out(dir.path(), files);
    bencher.bench(|| Snapshot::of_disk(dir.path(), &[], None).map(|snapshot| snapshot.check().len()));
}

/// A line is added to a comment, so that everything below it moves.
#[divan::bench(args = [10, 100, 1_000], sample_count = 10)]
fn one_file_alone(bencher: divan::Bencher<'_, '_>, files: usize) {
    let dir = tempfile::tempdir().expect("a temporary folder");
    lay_out(dir.path(), files);
    let quiet = "on: push\njobs:\n  look:\n    runs-on: ubuntu-latest\n    steps:\n      - run: ls\n";
    fs::write(dir.path().join(".github/workflows/look.yml"), quiet).expect("a file");
    let mut snapshot = Snapshot::of_disk(dir.path(), &[], None).expect("a repository");
    snapshot.check();
    let mut lines = 0;
    bencher.bench_local(|| {
        lines += 1;
        let text = format!("{}{quiet}", "# a tide\n".repeat(lines));
        snapshot.lay_over(".github/workflows/look.yml", Some(text)).expect("a text");
        snapshot.check().len()
    });
}
