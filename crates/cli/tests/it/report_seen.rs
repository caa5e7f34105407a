//! The page and the drawing as a real browser shows them.
#![cfg(unix)]

use std::path::PathBuf;

use serde_json::json;

use crate::browser::{Browser, program};
use crate::house::House;
use crate::report::{faulty_demo, tricked};

fn page_of(house: &House, dir: &str) -> PathBuf {
    assert_eq!(house.dulk_in(dir, &["report", "--output", "page.html"]).code, Some(0));
    house.path().join(dir).join("page.html")
}

/// The page of a repository in a browser of a usual size; nothing where there is no browser.
fn opened(house: impl FnOnce() -> House, dir: &str) -> Option<(House, Browser)> {
    let program = program()?;
    let house = house();
    let page = page_of(&house, dir);
    let mut browser = Browser::start(program);
    browser.open(&page, (1280, 800), "light");
    Some((house, browser))
}

/// Texts of drawings that stand on others, or leave the box that they are in.
const MISPLACED: &str = r"(() => {
  const found = [];
  for (const way of document.querySelectorAll('svg.w-way')) {
    const box = one => one.getBoundingClientRect();
    const whole = box(way);
    const texts = [...way.querySelectorAll('text')].map(one => [one.textContent, box(one)]);
    const boxes = [...way.querySelectorAll('.w-box, .w-tag, .w-end, .w-source')].map(box);
    const within = (inner, outer) => inner.left >= outer.left && inner.right <= outer.right && inner.top >= outer.top - 1 && inner.bottom <= outer.bottom + 1;
    texts.forEach(([words, one], number) => {
      if (!within(one, whole)) found.push('leaves the drawing: ' + words);
      const holds = outer => outer.left <= one.left && one.left <= outer.right && outer.top <= one.top && one.top <= outer.bottom;
      const around = boxes.filter(holds);
      if (around.length > 0 && !around.some(outer => within(one, outer))) found.push('leaves its box: ' + words);
      for (const [other, two] of texts.slice(number + 1)) {
        const wide = Math.min(one.right, two.right) - Math.max(one.left, two.left);
        const high = Math.min(one.bottom, two.bottom) - Math.max(one.top, two.top);
        if (wide > 1 && high > 3) found.push(words + ' stands on ' + other);
      }
    });
  }
  return found;
})()";

#[test]
fn the_page_opens_at_every_size_without_a_word_or_a_request() {
    let Some(program) = program() else { return };
    let house = faulty_demo();
    let mut browser = Browser::start(program);
    for dir in ["tour/faulty", "tour/healthy", "tour/other_formats", "tour/faulty_gitlab"] {
        let page = page_of(&house, dir);
        for (size, scheme) in [((1280, 800), "light"), ((390, 844), "dark"), ((360, 640), "light"), ((2000, 1000), "dark")] {
            browser.open(&page, size, scheme);
            assert_eq!(browser.console(), Vec::<String>::new(), "{dir} {size:?}");
            assert_eq!(browser.requests().len(), 1, "{dir} {size:?}: {:?}", browser.requests());
            let wide = browser.value("document.documentElement.scrollWidth");
            assert_eq!(wide, json!(size.0), "{dir} {size:?} scrolls to the side");
            assert_eq!(browser.value(MISPLACED), json!([]), "{dir} {size:?}");
            let ground = browser.value("getComputedStyle(document.body).backgroundColor");
            assert_eq!(ground, json!(if scheme == "dark" { "rgb(15, 27, 35)" } else { "rgb(251, 250, 246)" }));
        }
    }
}

#[test]
fn the_switches_work_without_a_script() {
    let Some((_house, mut browser)) = opened(faulty_demo, "tour/faulty") else { return };
    assert_eq!(browser.value("document.querySelectorAll('script').length"), json!(0));
    browser.value("document.getElementById('dark').click()");
    assert_eq!(browser.value("getComputedStyle(document.body).backgroundColor"), json!("rgb(15, 27, 35)"));
    let seen = "[...document.querySelectorAll('.finding')].filter(one => one.offsetParent).length";
    assert_eq!(browser.value(seen), json!(12));
    browser.value("document.getElementById('no-error').click()");
    assert_eq!(browser.value(seen), json!(1));
}

#[test]
fn a_reader_who_sees_nothing_finds_the_way() {
    let Some((_house, mut browser)) = opened(faulty_demo, "tour/faulty") else { return };
    let tree = browser.accessible();
    let has = |role: &str, name: &str| tree.iter().any(|(own, named)| own == role && named.contains(name));
    for (role, name) in [
        ("banner", ""),
        ("navigation", "Parts of the report"),
        ("main", ""),
        ("contentinfo", ""),
        ("region", "What runs when"),
        ("region", "The way of the site"),
        ("region", "Findings"),
        ("region", "Accepted"),
        ("region", "Facts"),
        ("region", "Rules"),
        ("heading", "tarnsay/timetable"),
        ("columnheader", "push to main"),
        ("rowheader", "publish"),
    ] {
        assert!(has(role, name), "{role} {name}: {tree:?}");
    }
    assert!(
        tree.iter()
            .any(|(role, name)| ["image", "img"].contains(&role.as_str()) && name.starts_with("The way of the site to pages"))
    );
    let dead = "[...document.querySelectorAll('a')].map(a => a.getAttribute('href')).filter(to => !document.getElementById(to.slice(1)))";
    assert_eq!(browser.value(dead), json!([]), "every link of the page leads somewhere in it");
    let twice = "(() => { const ids = [...document.querySelectorAll('[id]')].map(one => one.id); return ids.filter((id, at) => ids.indexOf(id) !== at); })()";
    assert_eq!(browser.value(twice), json!([]));
    let deciding = "(() => { const cell = document.querySelector('.cell.not'); cell.focus(); return [getComputedStyle(cell.querySelector('.tip')).display, cell.innerText]; })()";
    let shown = browser.value(deciding);
    assert_eq!(shown[0], json!("block"));
    assert!(shown[1].as_str().is_some_and(|words| words.contains("does not run:")), "{shown}");
}

#[test]
fn words_of_others_do_nothing_in_a_browser() {
    let Some((_house, mut browser)) = opened(tricked, "") else { return };
    assert_eq!(browser.console(), Vec::<String>::new());
    assert_eq!(browser.requests().len(), 1, "{:?}", browser.requests());
    assert_eq!(browser.value("document.querySelectorAll('script, img, b, [onmouseover], [onerror]').length"), json!(0));
    assert_eq!(browser.value(MISPLACED), json!([]));
}

#[test]
fn a_long_pipeline_stays_legible() {
    let looks: String = (0..8)
        .map(|number| {
            format!(
                "  look-{number}:\n    needs: prepare\n    runs-on: ubuntu-latest\n    strategy: {{ matrix: {{ node: [20, 22, 24], quay: [north, south] }} }}\n    steps:\n      - uses: actions/checkout@v5\n      - run: npm test -- {}\n        env: {{ PIER_TOKEN_{number}: \"${{{{ secrets.PIER_TOKEN_{number} }}}}\" }}\n",
                "a-rather-long-word-without-a-gap-".repeat(6)
            )
        })
        .collect();
    let all: Vec<String> = (0..8).map(|number| format!("look-{number}")).collect();
    let stages: String = (0..10)
        .map(|number| {
            let before = if number == 0 { format!("[{}]", all.join(", ")) } else { format!("stage-{}", number - 1) };
            let takes = if number == 0 { String::new() } else { format!("      - uses: actions/download-artifact@v4\n        with: {{ name: part-{}, path: dist }}\n", number - 1) };
            format!(
                "  stage-{number}:\n    needs: {before}\n    runs-on: ubuntu-latest\n    steps:\n{takes}      - run: npx vite build --outDir dist\n      - uses: actions/upload-artifact@v4\n        with: {{ name: part-{number}, path: dist }}\n"
            )
        })
        .collect();
    let pipeline = format!(
        "on: {{ push: {{ branches: [main] }}, workflow_dispatch: , schedule: [{{ cron: '0 4 * * *' }}] }}\njobs:\n  prepare:\n    runs-on: ubuntu-latest\n    steps: [{{ uses: actions/checkout@v5 }}]\n{looks}{stages}  publish:\n    needs: [stage-9, prepare]\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/download-artifact@v4\n        with: {{ name: part-9, path: dist }}\n      - run: rsync -a dist/ pier@north.tarnsay.example:/srv/timetable/\n      - run: rsync -a dist/ pier@south.tarnsay.example:/srv/{}/\n",
        "timetable-of-every-line-and-season-".repeat(4)
    );
    let house = || House::with_git(&[("package.json", "{}"), (".github/workflows/sail.yml", &pipeline)]);
    let Some((_house, mut browser)) = opened(house, "") else { return };
    assert_eq!(browser.value("document.querySelectorAll('svg.w-way .w-job').length"), json!(20));
    assert_eq!(browser.value("document.querySelectorAll('svg.w-way .w-end').length"), json!(2));
    assert_eq!(browser.value(MISPLACED), json!([]));
    let wide = browser.value("document.querySelector('svg.w-way').getBoundingClientRect().width");
    assert!(wide.as_f64().is_some_and(|wide| wide <= 1300.0), "{wide}");
}
