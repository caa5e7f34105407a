use super::*;
use crate::rules::Slip;

/// The paths that are looked at after a script: `+` there, `?` perhaps, `-` never.
const TABLE: &str = "
ls                                                   | +src +index.html +docs -dist -out
mkdir out                                            | +out -out/a -dist
mkdir -p out/deep/er                                 | +out +out/deep +out/deep/er -er
touch out/a                                          | +out +out/a
echo x > dist/CNAME                                  | +dist +dist/CNAME -out
echo x >> out/log && ls                              | +out/log
cat index.html > out/index.html                      | +out/index.html
npx vite build                                       | +dist ?dist/assets -build -out
npx vite build --outDir out                          | +out -dist
npm run build                                        | +dist -build
npm run build -- --outDir web                        | +web -dist
npm run all                                          | +dist -build
npm run loop                                         | ?dist ?out
npm run pack                                         | +packed +dist
npm run none                                         | ?dist
npm ci                                               | +node_modules -dist
npm ci && npx vite build                             | +node_modules +dist
cp -r src out                                        | +out +out/main.js -out/src
mkdir out && cp -r src out                           | +out/src +out/src/main.js
mkdir out; cp -r src/. out                           | +out/main.js -dist
cp -r src/. out                                      | +out/main.js
mkdir out && cp -r src/* out/                        | +out/main.js
cp -r src out/                                       | +out/src +out/src/main.js
cp -r src docs out                                   | +out/src/main.js +out/docs/a.md
cp index.html out.html                               | +out.html -out
mkdir out && cp index.html out                       | +out/index.html
cp *.html out                                        | +out -dist
cp -a docs/ out                                      | +out/a.md
mv docs out                                          | +out +out/a.md -docs
mv docs out && ls                                    | -docs -docs/a.md
npx vite build && mv dist out                        | +out -dist
npx vite build && mv dist/assets out                 | +out +dist
npx vite build && cp -r dist public                  | +public/dist +dist
npx vite build && cp -r dist/. public                | +public +dist
npx vite build && rm -rf dist                        | -dist
npx vite build                                       | -dist/client ?dist/assets ?dist/src ?dist/docs
npx vite build --assetsDir media                     | ?dist/media -dist/client
npx vite build && mkdir dist/client                  | +dist/client
npx vite build && node fill.mjs                      | ?dist/client ?live +dist
node fill.mjs                                        | ?live ?live/a ?dist -out
npx gulp                                             | ?styles -dist ?out
node fill.mjs; npx vite build                        | +dist ?live -out
npx eleventy                                         | +_site ?_site/client
npx vite build && rm dist/*.map                      | +dist
rm -rf dist && npx vite build                        | +dist
rm -rf docs                                          | -docs -docs/a.md +src
rm -rf docs && mkdir docs                            | +docs
rm -rf $DIR; npx vite build                          | +dist
npx vite build; rm -rf $DIR                          | ?dist
rsync -a src out                                     | +out/src/main.js
rsync -a src/ out                                    | +out/main.js
rsync -a src/ out/                                   | +out/main.js
rsync -a --delete src/ out/                          | +out/main.js
cd docs && mkdir b                                   | +docs/b -b
cd docs; touch c; cd ..; touch d                     | +docs/c +d -c
(cd docs && touch c); touch d                        | +docs/c +d -docs/d
(cd docs && (cd ../src && touch c); touch e)         | +src/c +docs/e
cd ./docs/../src && touch c                          | +src/c
cd nowhere/.. && touch c                             | +c
pushd docs && touch c                                | ?docs/c ?c
if true; then touch a; fi                            | +a
if [ -d x ]; then cp -r docs out; else mkdir out; fi | +out
for f in a b; do touch out/$f; done                  | ?out ?dist
test -d out || mkdir out                             | +out
mkdir out || true                                    | +out
make site                                            | ?dist ?out +src
./make.sh                                            | ?dist ?build
node pack.js || true                                 | ?dist
echo start; ./make.sh; mkdir out                     | +out ?dist
git checkout other                                   | ?dist
git clone https://harbour.example/a b                | ?b ?dist
curl -o out/a.json https://harbour.example/a         | +out/a.json
curl -s https://harbour.example/a                    | -out -dist
wget -O out/a.json https://harbour.example/a         | +out/a.json
tar -czf site.tgz dist                               | +site.tgz -out
tar -xzf site.tgz -C out                             | +out
tar -xzf site.tgz                                    | ?out
zip -r site.zip dist                                 | +site.zip -dist
unzip site.zip -d out                                | +out -dist
unzip site.zip                                       | ?out
ln -s docs out                                       | +out
echo dist out > /dev/null                            | -dist -out
cat <<EOF > out/a                                    | +out/a
npx vite build | tee log.txt                         | +dist +log.txt
npx eslint . && npx vitest run                       | +coverage -dist
npx playwright test                                  | +playwright-report -dist
npx rimraf dist && npx vite build                    | +dist
npx vite build && npx rimraf dist                    | -dist
npx shx cp -r docs out                               | +out/a.md
npx cross-env MODE=live vite build                   | +dist
hugo -d site                                         | +site -public/x
hugo --minify && cp -r public out                    | +out +public
cp -r $FROM out                                      | +out
cp -r docs $TO                                       | ?out ?dist
export A=1; mkdir out                                | +out
A=1 mkdir out                                        | +out
";

#[test]
fn a_table_of_scripts_leaves_these_folders() {
    let mut rows = 0;
    let mut wrong = Vec::new();
    for row in TABLE.lines().filter(|row| !row.trim().is_empty()) {
        rows += 1;
        let (script, expected) = row.rsplit_once("| ").unwrap_or_else(|| panic!("{row}"));
        let script = if script.contains("<<EOF") {
            format!("{}\n          x\n          EOF", script.trim())
        } else {
            script.trim().to_owned()
        };
        let paths: Vec<&str> = expected.split_whitespace().collect();
        let uploads: String = paths
            .iter()
            .map(|path| format!("      - uses: actions/upload-artifact@v4\n        with: {{path: {}}}\n", &path[1..]))
            .collect();
        let text = format!(
            "== files\nindex.html\nsrc/main.js\ndocs/a.md\npublic/CNAME\npack.js\n== gulpfile.js\nconst {{ src, dest }} = require('gulp')\nexports.default = () => src('a').pipe(require('gulp-sass')()).pipe(dest('styles')).pipe(dest('out'))\n== fill.mjs\nimport {{ cpSync }} from 'node:fs'\ncpSync('docs', 'live/pages')\ncpSync('docs', 'dist/client')\n== package.json\n{{\"scripts\": {{\"build\": \"vite build\", \"all\": \"npm-run-all build\", \"loop\": \"npm run pool\", \"pool\": \"npm run loop\", \"pack\": \"npm run build && cp -r dist packed\"}}}}\n== steps\n      - uses: actions/checkout@v5\n      - run: |\n          {script}\n{uploads}"
        );
        let scene = Slip::read(&text).scene();
        let project = scene.project();
        let case = project.case(0);
        let found: Vec<String> = case
            .trail
            .handovers
            .iter()
            .map(|handover| {
                let mark = match handover.standing {
                    Standing::There => '+',
                    Standing::Perhaps => '?',
                    Standing::Never => '-',
                };
                format!("{mark}{}", handover.path.written)
            })
            .collect();
        if found != paths {
            wrong.push(format!("{script}\n  expected {}\n  found    {}", paths.join(" "), found.join(" ")));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    assert!(rows >= 80, "{rows} rows");
}

/// What stands in a second job after it was handed over.
#[test]
fn artifacts_carry_trees_from_job_to_job() {
    for (upload, download, expected) in [
        ("path: dist", "name: artifact, path: web", "+web ?web/assets -dist"),
        ("path: dist", "name: artifact", "-dist ?assets"),
        ("path: dist, name: site", "path: all", "+all/site +all -dist"),
        ("path: dist, name: site", "path: all, merge-multiple: true", "+all ?all/site -dist"),
        ("path: dist, name: site", "", "+site ?site/a -dist"),
        ("path: docs, name: site", "name: site, path: web", "+web/a.md -web/docs -dist"),
        ("path: dist, name: site", "name: other, path: web", "+web ?web/a -dist"),
    ] {
        let uploads: String = expected
            .split_whitespace()
            .map(|path| format!("      - uses: actions/upload-artifact@v4\n        with: {{path: {}, name: look}}\n", &path[1..]))
            .collect();
        let text = format!(
            "== files\nindex.html\ndocs/a.md\n== jobs\n  a:\n    runs-on: x\n    steps:\n      - uses: actions/checkout@v5\n      - run: npx vite build\n      - uses: actions/upload-artifact@v4\n        with: {{{upload}}}\n  b:\n    needs: a\n    runs-on: x\n    steps:\n      - uses: actions/download-artifact@v5\n        with: {{{download}}}\n{uploads}"
        );
        let scene = Slip::read(&text).scene();
        let project = scene.project();
        let case = project.case(0);
        let found: Vec<String> = case
            .trail
            .handovers
            .iter()
            .filter(|handover| handover.job == 1)
            .map(|handover| {
                let mark = match handover.standing {
                    Standing::There => '+',
                    Standing::Perhaps => '?',
                    Standing::Never => '-',
                };
                format!("{mark}{}", handover.path.written)
            })
            .collect();
        assert_eq!(found.join(" "), expected, "{upload} / {download}");
    }
}

#[test]
fn hostile_scripts_end_in_time() {
    let long: String = "          mkdir a && cd a && (cp -r b c; rm -rf *)\n".repeat(10_000);
    let nested = format!("          {}touch a{}\n", "(".repeat(2_000), ")".repeat(2_000));
    for script in [long, nested] {
        let scene =
            Slip::read(&format!("== files\nx\n== steps\n      - uses: actions/checkout@v5\n      - run: |\n{script}")).scene();
        let project = scene.project();
        assert!(project.case(0).trail.handovers.is_empty());
    }
}
