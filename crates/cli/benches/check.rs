//! The whole way from disk to findings, without the process around it.

use std::fs;

fn main() {
    divan::main();
}

#[divan::bench(args = [1, 100, 1_000], sample_count = 10)]
fn gathering(bencher: divan::Bencher<'_, '_>, files: usize) {
    let dir = tempfile::tempdir().expect("a temporary folder");
    let workflows = dir.path().join(".github/workflows");
    fs::create_dir_all(&workflows).expect("a folder");
    for number in 0..files {
        fs::write(workflows.join(format!("{number}.yml")), include_str!("../../../demo/faulty/.github/workflows/sail.yml"))
            .expect("a file");
    }
    bencher.bench(|| dulk_gather::gather(dir.path(), &[]).map(|repository| repository.pipelines.len()));
}
