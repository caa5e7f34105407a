//! Whole repositories.

use arbitrary::Unstructured;

use crate::held::Held;
use crate::made;

/// A repository of examples, changed; everything that must hold is looked at.
pub fn whole(data: &[u8]) {
    if let Ok(held) = made::repository(&mut Unstructured::new(data)) {
        held.check_all(true);
    }
}

/// Files that facts are read from, with a pipeline that asks for them: the first byte chooses which.
pub fn companions(data: &[u8]) {
    const PATHS: [&str; 16] = [
        "package.json", "package-lock.json", "vite.config.ts", "astro.config.mjs", "next.config.js", "_config.yml", "hugo.toml", "netlify.toml",
        "vercel.json", "Dockerfile", ".nvmrc", ".env", "index.html", "tools/build.sh", "angular.json", "pnpm-workspace.yaml",
    ];
    let Some((first, rest)) = data.split_first() else { return };
    let (path, text) = (PATHS[usize::from(*first) % PATHS.len()], std::str::from_utf8(rest).unwrap_or_default());
    let mut files = vec![
        (".github/workflows/sail.yml".to_owned(), PIPELINE.to_owned()),
        ("package.json".to_owned(), r#"{"scripts": {"build": "vite build"}}"#.to_owned()),
    ];
    files.push((path.to_owned(), text.to_owned()));
    Held::new(files).check_all(false);
}

const PIPELINE: &str = "on: {push: {branches: [main]}}
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v5
        with: {node-version-file: .nvmrc, cache: npm}
      - run: npm ci && npm run build && sh tools/build.sh
      - run: docker build -t site . && docker run site
      - uses: actions/upload-pages-artifact@v4
        with: {path: dist}
";
