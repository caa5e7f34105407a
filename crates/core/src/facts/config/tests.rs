use super::*;

fn find(path: &str, text: &str, setting: &str) -> Option<String> {
    let read = read(path, text).unwrap_or_else(|error| panic!("{path}: {}", error.reason));
    match read.find(setting) {
        Found::Here(found) => Some(format!("{} = {}", &text[found.span.range()], found.text().unwrap_or("?"))),
        Found::Absent => None,
        Found::Unknown => Some("unknown".into()),
    }
}

#[test]
fn literals_are_read_through_the_usual_wrappers() {
    for (path, text) in [
        ("vite.config.ts", "import { defineConfig } from 'vite'\nexport default defineConfig({ build: { outDir: 'out' } })"),
        ("vite.config.js", "export default defineConfig(({ mode }) => ({ build: { outDir: 'out' } }))"),
        ("vite.config.ts", "const config = { build: { outDir: 'out' } } satisfies UserConfig\nexport default config"),
        ("vite.config.cjs", "module.exports = { build: { 'outDir': 'out' } }"),
        ("vite.config.mjs", "const folder = 'out'\nexport default { build: { outDir: folder } }"),
        ("x.config.js", "module.exports = function (c) { c.add('x'); return { build: { outDir: 'out' } } }"),
    ] {
        assert_eq!(find(path, text, "build.outDir").as_deref(), Some("'out' = out"), "{text}");
    }
}

#[test]
fn what_must_be_computed_is_unknown_and_what_is_not_there_is_absent() {
    for (text, expected) in [
        ("export default { build: { outDir: process.env.OUT || 'x' } }", Some("unknown")),
        ("export default { build: { outDir: 'x', ...shared } }", Some("unknown")),
        ("export default { ...shared, build: { outDir: 'x' } }", Some("'x' = x")),
        ("export default merge(a, b)", Some("unknown")),
        ("export default (e) => { if (e.prod) return { build: {} }; return {} }", Some("unknown")),
        ("let d = 'x'; export default { build: { outDir: d } }", Some("unknown")),
        ("export default { base: '/x/' }", None),
    ] {
        assert_eq!(find("vite.config.js", text, "build.outDir").as_deref(), expected, "{text}");
    }
}

#[test]
fn json_toml_and_yaml_give_the_same_tree() {
    let json = "\u{feff}{\n // where it goes\n \"build\": { \"outDir\": \"out\", },\n}";
    assert_eq!(find("a.jsonc", json, "build.outDir").as_deref(), Some("\"out\" = out"));
    assert_eq!(find("a.toml", "[build]\noutDir = 'out'\n", "build.outDir").as_deref(), Some("'out' = out"));
    assert_eq!(find("a.yml", "build:\n  outDir: out\n", "build.outDir").as_deref(), Some("out = out"));
}

#[test]
fn hostile_files_end_in_an_error_or_an_unknown() {
    let nested = format!("export default {}1{}", "(".repeat(30_000), ")".repeat(30_000));
    assert!(read("a.js", &nested).map_or(true, |setting| matches!(setting.value, Value::Number(_) | Value::Unknown)));
    let deep = format!("{}1{}", "[".repeat(10_000), "]".repeat(10_000));
    assert!(read("a.json", &deep).is_err());
    assert_eq!(read("package.json", "{ \"a\": 1, }x").map_err(|error| error.span.start), Err(10));
    // Neither in the middle of a character, nor before it: the mark of the byte order counts.
    assert_eq!(read("package.json", "\u{feff}ttps:0").map_err(|error| error.span.start), Err(4));
    assert_eq!(read("package.json", "{ \"a\": é }").map_err(|error| error.span.start), Err(7));
    assert!(read("a.toml", "a = ").is_err());
}

#[test]
fn a_small_script_fits_the_smallest_stack_however_it_is_written() {
    let fitting = |part: &str| format!("{}a", part.repeat((script::SMALL_SCRIPT - 1) / part.len()));
    let nested = |open: &str, close: &str| format!("{}a{}", open.repeat(63), close.repeat(63));
    let parts = ["!", "a=", "a=>", "()=>", "a**", "a:", "new ", "if(a)", "await ", "<a>", "a?b:", "do "];
    let texts: Vec<String> =
        parts.iter().map(|part| fitting(part)).chain([nested("(", ")"), nested("[", "]"), nested("{a:", "}")]).collect();
    let read_all =
        move || texts.iter().filter(|text| read("vite.config.ts", text).is_ok_and(|read| read.value == Value::Unknown)).count();
    let thread = std::thread::Builder::new().stack_size(1 << 20).spawn(read_all);
    let understood = thread.map(std::thread::JoinHandle::join);
    // Half of them are programs, and none of those exports a thing.
    assert!(understood.is_ok_and(|read| read.is_ok_and(|count| count > 6)));
}

#[test]
fn the_only_entry_and_the_argument_of_a_call_can_be_named() {
    let angular = r#"{"projects": {"timetable": {"architect": {"build": {"options": {"outputPath": "dist/x"}}}}}}"#;
    assert_eq!(
        find("angular.json", angular, "projects.*.architect.build.options.outputPath").as_deref(),
        Some("\"dist/x\" = dist/x")
    );
    assert_eq!(find("a.json", r#"{"p": {"a": 1, "b": 2}}"#, "p.*").as_deref(), Some("unknown"));
    for (call, expected) in
        [("adapter({ pages: 'out' })", Some("'out' = out")), ("adapter()", None), ("adapter", Some("unknown"))]
    {
        let text = format!("export default {{ kit: {{ adapter: {call} }} }}");
        assert_eq!(find("svelte.config.js", &text, "kit.adapter().pages").as_deref(), expected, "{call}");
    }
}
