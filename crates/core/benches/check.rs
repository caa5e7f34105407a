//! From bytes to findings, stage by stage.

use std::fmt::Write as _;

use dulk_core::facts::{Facts, FileList, Found, Origin};
use dulk_core::formats::{self, prepare_alone};
use dulk_core::project::Project;
use dulk_core::text::{FileId, SourceFile, Sources};
use dulk_core::{carrier, check};

fn main() {
    divan::main();
}

/// A workflow file of about 80 lines, as sites have them.
fn workflow() -> String {
    let mut text = String::from(include_str!("../../../demo/healthy/.github/workflows/sail.yml"));
    for number in 0..4 {
        let _ = write!(
            text,
            "\n  look-{number}:\n    needs: build\n    runs-on: ubuntu-latest\n    if: github.ref == 'refs/heads/main'\n    steps:\n      \
             - uses: actions/checkout@v5\n      - run: |\n          npm ci && npm run build\n          cp -r dist/. out/\n"
        );
    }
    text
}

fn scene(files: usize) -> (Sources, Vec<FileId>, Facts) {
    let mut sources = Sources::default();
    let ids =
        (0..files).map(|number| sources.add(SourceFile::new(format!(".github/workflows/{number}.yml"), workflow()))).collect();
    let package = sources.add(SourceFile::new("package.json", include_str!("../../../demo/healthy/package.json")));
    let list = FileList::new(vec!["package.json".into(), "package-lock.json".into()], Vec::new());
    let found =
        Found { files: dulk_core::facts::Fact::Known(list, Origin::Files), companions: vec![package], ..Found::default() };
    let facts = Facts::from_found(found, &sources);
    (sources, ids, facts)
}

#[divan::bench]
fn tree_of_80_lines(bencher: divan::Bencher<'_, '_>) {
    let text = workflow();
    bencher.counter(divan::counter::BytesCount::of_str(&text)).bench(|| carrier::parse(&text).is_whole());
}

#[divan::bench]
fn findings_of_80_lines(bencher: divan::Bencher<'_, '_>) {
    let (sources, ids, facts) = scene(1);
    bencher.bench(|| {
        let prepared = prepare_alone(ids[0], sources.get(ids[0]), formats::all()[0]);
        check(&Project::new(&prepared, &facts, &sources, None), 0).len()
    });
}

/// One pipeline that calls all others, which must cost no more per pipeline the more there are.
#[divan::bench(sample_count = 5, args = [250, 500, 1_000])]
fn findings_of_called_pipelines(bencher: divan::Bencher<'_, '_>, count: usize) {
    let mut caller = String::from("on: push\njobs:\n");
    let mut sources = Sources::default();
    let mut ids = Vec::new();
    for number in 0..count {
        let path = format!(".github/workflows/{number}.yml");
        let _ = write!(caller, "  call-{number}:\n    uses: ./{path}\n");
        let called = "on: workflow_call\njobs:\n  build:\n    runs-on: ubuntu-latest\n    steps: [{run: npm ci}]\n";
        ids.push(sources.add(SourceFile::new(path, called)));
    }
    ids.push(sources.add(SourceFile::new(".github/workflows/all.yml", caller)));
    let facts = Facts::from_found(Found::default(), &sources);
    bencher.bench(|| {
        let prepared: Vec<_> = ids.iter().flat_map(|id| prepare_alone(*id, sources.get(*id), formats::all()[0])).collect();
        let project = Project::new(&prepared, &facts, &sources, None);
        (0..prepared.len()).map(|index| check(&project, index).len()).sum::<usize>()
    });
}

#[divan::bench(sample_count = 5)]
fn findings_of_1000_files(bencher: divan::Bencher<'_, '_>) {
    let (sources, ids, facts) = scene(1_000);
    bencher.bench(|| {
        let prepared: Vec<_> = ids.iter().flat_map(|id| prepare_alone(*id, sources.get(*id), formats::all()[0])).collect();
        let project = Project::new(&prepared, &facts, &sources, None);
        (0..prepared.len()).map(|index| check(&project, index).len()).sum::<usize>()
    });
}
