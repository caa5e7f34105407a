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

/// A pipeline with a cache whose key is made of a file, in a repository with as many files as pipelines and more.
const CACHED: &str = "on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: \"npm-${{ hashFiles('package-lock.json') }}\"}
      - run: npm ci && npm run build
";

/// A pipeline whose jobs and steps ask what started it.
const CONDITIONS: &str = "on: {push: {branches: [main, 'sail/**']}, pull_request: }
jobs:
  build:
    if: github.event_name == 'push' && github.ref == 'refs/heads/main'
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - if: github.ref_name != 'sail/north'
        run: npm ci && npm run build
  look:
    needs: build
    if: always() && needs.build.result == 'success'
    runs-on: ubuntu-latest
    steps: [{run: npm test}]
";

/// Many pipelines of a kind, which must cost no more each the more there are.
#[divan::bench(sample_count = 5, args = [500, 1_000, 2_000])]
fn findings_of_cached_pipelines(bencher: divan::Bencher<'_, '_>, count: usize) {
    findings_of(bencher, count, CACHED);
}

#[divan::bench(sample_count = 5, args = [500, 1_000, 2_000])]
fn findings_of_pipelines_with_conditions(bencher: divan::Bencher<'_, '_>, count: usize) {
    findings_of(bencher, count, CONDITIONS);
}

fn findings_of(bencher: divan::Bencher<'_, '_>, count: usize, text: &str) {
    let mut sources = Sources::default();
    let path = |number: usize| format!(".github/workflows/{number}.yml");
    let ids: Vec<FileId> = (0..count).map(|number| sources.add(SourceFile::new(path(number), text))).collect();
    let paths = (0..count).map(path).chain(["package.json".into(), "package-lock.json".into()]).collect();
    let list = FileList::new(paths, Vec::new());
    let found = Found { files: dulk_core::facts::Fact::Known(list, Origin::Files), ..Found::default() };
    let facts = Facts::from_found(found, &sources);
    bencher.bench(|| {
        let prepared: Vec<_> = ids.iter().flat_map(|id| prepare_alone(*id, sources.get(*id), formats::all()[0])).collect();
        let project = Project::new(&prepared, &facts, &sources, None);
        (0..prepared.len()).map(|index| check(&project, index).len()).sum::<usize>()
    });
}

/// What every path of a repository is asked: whether it is that of a pipeline.
#[divan::bench]
fn claims_of_5000_paths(bencher: divan::Bencher<'_, '_>) {
    let paths: Vec<String> = (0..5_000).map(|number| format!("src/part{}/stop{number}.js", number % 50)).collect();
    bencher.bench(|| paths.iter().filter(|path| formats::claim(path).is_some()).count());
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
