//! A folder is handed on or published that is not the one the build writes.

use crate::case::{Case, at};
use crate::facts::Origin;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::rules::Rule;
use crate::trail::{Built, Handover, Standing};

pub const RULE: Rule = Rule {
    id: "artifact.wrong-folder",
    severity: Severity::Error,
    title: "The folder that goes online is not the folder that was built",
    why: "The build writes one folder, and another is handed on or published. That folder does not exist, so the step fails, or an empty site \
          goes online behind a green tick.",
    needs: &[crate::rules::Need::Files, crate::rules::Need::Package],
    bad: &[
        "== files\nindex.html\n== package.json\n{\"scripts\": {\"build\": \"vite build\"}}\n== pipeline\non: push\njobs:\n  build:\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/checkout@v4\n      - run: npm ci\n      - run: ‹npm run build›\n      - uses: actions/upload-pages-artifact@v3\n        with:\n          path: ./«build»\n",
        "== files\nindex.html\n== gitlab\nbuild:\n  script: [‹npx vite build›]\n  artifacts:\n    paths: [«build»]\n",
    ],
    good: &[
        "== files\nindex.html\n== package.json\n{\"scripts\": {\"build\": \"vite build\"}}\n== pipeline\non: push\njobs:\n  build:\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/checkout@v4\n      - run: npm run build\n      - uses: actions/upload-artifact@v4\n        with: {path: 'dist/'}\n",
        // A command that nobody here knows may have made any folder.
        "== files\nindex.html\n== package.json\n{\"scripts\": {\"build\": \"vite build && node pack.js\"}}\n== pipeline\non: push\njobs:\n  build:\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/checkout@v4\n      - run: npm run build\n      - uses: actions/upload-artifact@v4\n        with: {path: build}\n",
        "== files\nindex.html\n== gitlab\nbuild:\n  script: [npx vite build]\n  artifacts:\n    paths: [dist/]\n",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for handover in &case.trail.handovers {
        if handover.standing != Standing::Never || handover.together > 1 {
            continue;
        }
        // Of several builds any may be meant, but then it is still none of them.
        if let Some(built) = handover.built.last() {
            speak(case, handover, built, out);
        }
    }
}

fn speak(case: &Case<'_>, handover: &Handover, built: &Built, out: &mut Findings) {
    let folder = handover.path.folder.as_deref().unwrap_or_default();
    let goes = if handover.publishes { "published" } else { "handed on" };
    // The part that names the folder, without `./` before it and `/` after it.
    let written = handover.path.written.find(folder);
    let mut place = handover.path.at;
    let exact = case.sources.slice(place) == handover.path.written;
    if let Some(offset) = written.filter(|_| exact && !folder.is_empty()) {
        let start = place.span.start + u32::try_from(offset).unwrap_or(0);
        place.span = crate::text::Span { start, end: start + u32::try_from(folder.len()).unwrap_or(0) };
    }
    let finding = out.add(place, format!("the folder `{folder}` is {goes}, but nothing makes it: the build writes `{}`", built.output));
    match built.origin {
        Origin::At(setting) => finding.witness(at(setting), format!("{} writes `{}` because of this", built.generator, built.output)),
        _ => finding.witness(at(built.at), format!("this runs {}, which writes `{}` unless it is told otherwise", built.generator, built.output)),
    };
    let title = format!("write {}", built.output);
    let single = handover.built.iter().all(|other| other.output == built.output);
    let replaceable = case.sources.slice(place) == folder;
    finding.mend(if single && replaceable && !handover.path.glob {
        Mend::certain(title, [Edit::replace(place, built.output.clone())])
    } else {
        Mend::by_hand(title)
    });
}
