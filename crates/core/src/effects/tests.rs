use super::*;
use crate::rules::Slip;

/// The effects of a script in a repository with these files, in short words.
fn effects_of(script: &str, rest: &str) -> Vec<String> {
    let lines: String = script.lines().map(|line| format!("          {line}\n")).collect();
    let text = format!(
        "{rest}== pipeline\non: push\njobs:\n  a:\n    runs-on: x\n    steps:\n      - uses: actions/checkout@v4\n      - run: |\n{lines}"
    );
    let scene = Slip::read(&text).scene();
    let effects = PipelineEffects::of(&scene.prepared[0].pipeline, &scene.facts, &|_| None, followed_of_each(1));
    effects.jobs[0][1]
        .effects
        .iter()
        .map(|effect| format!("{}{}", short(&effect.effect), if effect.perhaps { "?" } else { "" }))
        .collect()
}

fn short(effect: &Effect) -> String {
    let name = |folder: &Folder| folder.clone().unwrap_or_else(|| "?".into());
    match effect {
        Effect::Install { manager, frozen, dir, .. } => format!("install {manager} {frozen} in {}", name(dir)),
        Effect::RunScript { manager, name: script, dir, .. } => format!("{manager} runs {script} in {}", name(dir)),
        Effect::Build { generator, output, .. } => format!("{generator} builds {}", name(output)),
        Effect::Test { tool } => format!("test {tool}"),
        Effect::Write { path } => format!("write {}", name(path)),
        Effect::Remove { path } => format!("remove {}", name(path)),
        Effect::Copy { from, to, moves, .. } => format!(
            "{} {} to {}",
            if *moves { "move" } else { "copy" },
            from.iter().map(|source| name(&source.path)).collect::<Vec<_>>().join(" "),
            name(to)
        ),
        Effect::Publish { folder, place, target, .. } => format!(
            "publish {} to {}",
            folder.as_ref().map_or("-".into(), |path| name(&path.folder)),
            place.as_ref().map_or(target.word(), String::as_str)
        ),
        Effect::Push { branch, .. } => format!("push {}", branch.clone().unwrap_or_else(|| "?".into())),
        Effect::Nothing => "nothing".into(),
        Effect::Unknown(_) => "unknown".into(),
        Effect::SetUp { tool, version, .. } => {
            format!("{tool} {}", version.as_ref().map_or("-", |version| version.value.as_str()))
        }
        Effect::Enter { path } => format!("enter {}", name(path)),
        Effect::MakeFolder { path } => format!("folder {}", name(path)),
        other => format!("{other:?}"),
    }
}

#[test]
fn commands_become_effects() {
    for (script, expected) in [
        ("npm ci", vec!["install npm true in "]),
        ("npm install -g serve", vec!["nothing"]),
        ("yarn", vec!["install yarn false in "]),
        ("yarn install --immutable", vec!["install yarn true in "]),
        ("pnpm i --frozen-lockfile", vec!["install pnpm true in "]),
        ("npm --prefix docs ci", vec!["install npm true in docs"]),
        ("npx vite build --outDir=../out docs", vec!["vite builds out"]),
        ("npx vite build --token pier", vec!["vite builds dist"]),
        ("npx vite build --token pier docs", vec!["vite builds docs/dist"]),
        ("npx --yes astro@4 build", vec!["astro builds dist"]),
        ("hugo --minify -d site", vec!["hugo builds site"]),
        ("hugo version", vec!["nothing"]),
        ("bundle install && bundle exec jekyll build", vec!["install bundle false in ", "jekyll builds _site"]),
        (
            "cd docs && mkdir -p a/b && cp -r x/. ../y && cd .. && rm -rf z",
            vec!["enter docs", "folder docs/a/b", "copy docs/x to y", "remove z"],
        ),
        ("(cd docs; touch a); touch b", vec!["enter docs", "write docs/a", "write b"]),
        ("if [ -d x ]; then mv a b; fi", vec!["nothing?", "move a to b?"]),
        ("echo x > dist/CNAME", vec!["write dist/CNAME", "nothing"]),
        ("scp -r dist host:/www", vec!["publish dist to host:/www"]),
        ("scp -r dist ${{ secrets.HOST }}:/www/", vec!["publish dist to ${{ secrets.HOST }}:/www"]),
        ("scp -r dist $HOST:/www", vec!["publish dist to ssh"]),
        ("scp -r host:/www old", vec!["write old"]),
        ("rsync -a dist/ me@harbour.example:/www", vec!["publish dist to me@harbour.example:/www"]),
        ("lftp -u pier -e 'set ftp:ssl-force true; mirror -R dist /www; quit' harbour.example", vec!["publish dist to ftp"]),
        ("lftp -f sends.lftp", vec!["unknown"]),
        ("aws s3 sync out s3://ferry --delete", vec!["publish out to s3://ferry"]),
        ("aws s3 sync out s3://ferry --dryrun", vec!["nothing"]),
        ("npx gh-pages -d out", vec!["publish out to branch gh-pages"]),
        ("npx surge out ferry.example", vec!["publish out to ferry.example"]),
        ("git config user.name x && git push origin HEAD:pages", vec!["nothing", "push pages"]),
        ("git checkout other", vec!["unknown"]),
        ("git push origin HEAD:gh-pages", vec!["push gh-pages", "publish - to branch gh-pages"]),
        ("git push --force origin main:gh-pages", vec!["push gh-pages", "publish - to branch gh-pages"]),
        ("git push origin --delete gh-pages", vec!["push gh-pages"]),
        ("git subtree push --prefix out origin gh-pages", vec!["push gh-pages", "publish out to branch gh-pages"]),
        ("git subtree pull --prefix out origin main", vec!["unknown"]),
        (
            "git push origin $(git subtree split --prefix out main):gh-pages --force",
            vec!["push gh-pages", "publish - to branch gh-pages"],
        ),
        (
            "git worktree add live gh-pages && cd live && git add -A && git commit -m x && git push",
            vec!["unknown", "enter live", "nothing", "nothing", "push ?", "publish - to branch gh-pages"],
        ),
        ("git worktree add -b trial live && git -C live push origin trial", vec!["unknown", "push trial"]),
        (
            "cd out && git init -b main && git add . && git push -f git@forge.tarnsay.example:ferry/site.git main:gh-pages",
            vec![
                "enter out",
                "nothing",
                "nothing",
                "push gh-pages",
                "publish out to branch gh-pages of git@forge.tarnsay.example:ferry/site.git",
            ],
        ),
        (
            "npx eslint . && npx playwright test",
            vec!["test eslint", "test playwright", "write playwright-report", "write test-results", "write blob-report"],
        ),
        ("nvm use 18", vec!["node 18"]),
        ("nvm install && fnm install --lts && nvm alias default 22", vec!["node -", "node -", "nothing"]),
        ("nvm use $NODE", vec!["node -"]),
        ("node make.js || true", vec!["unknown", "nothing?"]),
        ("curl -o dist/a.json https://harbour.example/a", vec!["write dist/a.json"]),
        ("cp -r $FROM ${{ env.TO }}", vec!["copy ? to ?"]),
    ] {
        assert_eq!(effects_of(script, "== files\nx\n"), expected, "{script}");
    }
}

#[test]
fn scripts_are_followed_into_package_json() {
    let package = "== package.json\n{\"scripts\": {\"prebuild\": \"rm -rf dist\", \"build\": \"vite build\", \"all\": \"npm run build && npm run lint\", \"lint\": \"eslint .\", \"a\": \"npm run b\", \"b\": \"npm run a\"}}\n== files\nx\n";
    for (script, expected) in [
        ("npm run build -- --outDir out", vec!["npm runs build in ", "remove dist", "vite builds out"]),
        (
            "npm run all",
            vec!["npm runs all in ", "npm runs build in ", "remove dist", "vite builds dist", "npm runs lint in ", "test eslint"],
        ),
        ("npm run a", vec!["npm runs a in ", "npm runs b in ", "npm runs a in ", "unknown"]),
        ("pnpm build", vec!["pnpm runs build in ", "remove dist?", "vite builds dist"]),
        ("yarn vite build", vec!["vite builds dist"]),
        ("npm run none", vec!["npm runs none in ", "unknown"]),
        ("npm run build -w app", vec!["unknown"]),
    ] {
        assert_eq!(effects_of(script, package), expected, "{script}");
    }
}

#[test]
fn a_literal_in_the_configuration_names_the_built_folder() {
    for (config, expected) in [
        ("export default { build: { outDir: 'public' } }", "vite builds public"),
        ("export default { build: { outDir: dir() } }", "vite builds ?"),
        ("export default { root: 'src' }", "vite builds ?"),
        ("export default {}", "vite builds dist"),
    ] {
        assert_eq!(effects_of("npx vite build", &format!("== vite.config.js\n{config}\n== files\nx\n")), [expected], "{config}");
    }
    let declared = "== dulk.toml\n[site]\noutput = \"web\"\n== files\nx\n";
    assert_eq!(effects_of("npx vite build", declared), ["vite builds web"]);
}

#[test]
fn tokens_are_told_apart() {
    let text = |value: &str| Text::straight(value, crate::text::FileId(0), crate::text::Span::default());
    assert_eq!(own_token(&text("${{ secrets.github_token }}")), Some(true));
    assert_eq!(own_token(&text("${{ github.token }}")), Some(true));
    assert_eq!(own_token(&text("${{ secrets.DEPLOY }}")), Some(false));
    assert_eq!(own_token(&text("${{ secrets.A || github.token }}")), None);
}

#[test]
fn every_generator_writes_where_its_manual_says() {
    for (script, files, expected) in [
        (
            "npx ng build",
            "== angular.json\n{\"projects\": {\"t\": {\"architect\": {\"build\": {\"builder\": \"@angular/build:application\", \"options\": {\"outputPath\": \"dist/t\"}}}}}}\n",
            "angular builds dist/t/browser",
        ),
        (
            "npx ng build --output-path=out",
            "== angular.json\n{\"projects\": {\"t\": {\"architect\": {\"build\": {\"builder\": \"@angular-devkit/build-angular:browser\"}}}}}\n",
            "angular builds out",
        ),
        ("npx ng build", "", "angular builds ?"),
        ("npx vue-cli-service build", "== vue.config.js\nmodule.exports = { outputDir: 'web' }\n", "vue-cli builds web"),
        ("npx next build", "== next.config.mjs\nexport default { output: 'export' }\n", "next builds out"),
        ("npx next build", "== next.config.mjs\nexport default { output: 'export', distDir: 'build' }\n", "next builds build"),
        ("npx next build", "", "next builds .next"),
        ("npx gatsby build", "", "gatsby builds public"),
        (
            "npx vite build",
            "== package.json\n{\"devDependencies\": {\"@sveltejs/kit\": \"2\", \"@sveltejs/adapter-static\": \"3\", \"vite\": \"7\"}}\n",
            "sveltekit builds build",
        ),
        (
            "npx vite build",
            "== package.json\n{\"devDependencies\": {\"@sveltejs/kit\": \"2\"}}\n== svelte.config.js\nexport default { kit: { adapter: adapter({ pages: 'www' }) } }\n",
            "sveltekit builds www",
        ),
        ("npx vite build", "== package.json\n{\"devDependencies\": {\"@react-router/dev\": \"7\"}}\n", "unknown"),
        ("npx vitepress build docs", "", "vitepress builds docs/.vitepress/dist"),
        ("npx vuepress build docs", "", "vuepress builds docs/.vuepress/dist"),
        ("npx hexo generate", "== _config.yml\npublic_dir: out\n", "hexo builds out"),
        ("hugo --gc --minify", "== hugo.toml\npublishDir = 'docs'\n", "hugo builds docs"),
        ("hugo -s site", "", "hugo builds site/public"),
        ("bundle exec jekyll build -d _out", "", "jekyll builds _out"),
        ("mkdocs build --strict", "== mkdocs.yml\nsite_name: Ferry\nsite_dir: html\n", "mkdocs builds html"),
        ("mkdocs build -f docs/mkdocs.yml", "", "mkdocs builds docs/site"),
        ("sphinx-build -b html docs docs/_build/html", "", "sphinx builds docs/_build/html"),
        ("sphinx-build -M html docs out", "", "sphinx builds out/html"),
        ("pelican content -o out", "", "pelican builds out"),
        ("zola build --output-dir=www", "", "zola builds www"),
        ("mdbook build guide", "== guide/book.toml\n[build]\nbuild-dir = 'html'\n", "mdbook builds guide/html"),
        ("lektor build -O out", "", "lektor builds out"),
        ("npx parcel build src/index.html --public-url ./", "", "parcel builds dist"),
        (
            "npx webpack --mode production",
            "== webpack.config.js\nmodule.exports = { output: { path: require('path').resolve('out') } }\n",
            "webpack builds ?",
        ),
        ("npx webpack --mode production", "", "webpack builds dist"),
        ("npx ember build -e production", "", "ember builds dist"),
        ("dotnet publish Ferry.csproj -c Release -o release", "", "blazor builds release"),
        ("npx storybook build", "", "storybook builds storybook-static"),
        ("npx typedoc --out api src/main.ts", "", "typedoc builds api"),
        ("npx docusaurus build", "", "docusaurus builds build"),
        ("npx eleventy --input=src --output=www", "", "eleventy builds www"),
        ("npx nuxi generate", "", "write dist"),
        ("npx react-scripts build", "", "create-react-app builds build"),
    ] {
        let effects = effects_of(script, &format!("{files}== files\nx\n"));
        assert_eq!(effects.first().map(String::as_str), Some(expected), "{script} with {files}");
    }
}

#[test]
fn compilers_and_script_runners_are_followed() {
    let shell = "== tsconfig.json\n{ \"files\": [], \"references\": [{ \"path\": \"./tsconfig.app.json\" }] }\n";
    for (files, script, expected) in [
        (
            format!("{shell}== tsconfig.app.json\n{{ \"compilerOptions\": {{ /* none */ \"noEmit\": true }} }}\n"),
            "npx tsc -b && npx vite build",
            vec!["test tsc", "vite builds dist"],
        ),
        (
            format!("{shell}== tsconfig.app.json\n{{ \"compilerOptions\": {{ \"outDir\": \"lib\" }} }}\n"),
            "npx tsc --build",
            vec!["test tsc", "write lib"],
        ),
        (shell.to_owned(), "npx tsc -b", vec!["unknown"]),
        (String::new(), "npx tsc --noEmit", vec!["test tsc"]),
        (String::new(), "npx tsc", vec!["unknown"]),
        (
            "== package.json\n{\"scripts\": {\"clean\": \"rimraf dist\", \"make\": \"vite build\"}}\n".into(),
            "npx run-s clean \"make {@}\" --",
            vec!["remove dist", "vite builds dist"],
        ),
        ("== package.json\n{\"scripts\": {\"a:x\": \"vite build\"}}\n".into(), "npx run-p a:*", vec!["unknown"]),
    ] {
        assert_eq!(effects_of(script, &format!("{files}== files\nx\n")), expected, "{script} with {files}");
    }
}

#[test]
fn a_checkout_of_the_events_own_commit_or_of_the_default_branch_is_no_foreign_one() {
    for (with, expected) in [
        ("", true),
        ("        with: {ref: main}\n", true),
        ("        with: {ref: refs/heads/main}\n", true),
        ("        with: {ref: '${{ github.sha }}', repository: '${{ github.repository }}'}\n", true),
        ("        with: {ref: winter-plan}\n", false),
        ("        with: {ref: '${{ github.head_ref }}'}\n", false),
        ("        with: {repository: pier/other}\n", false),
    ] {
        let slip = format!("== git\nmain default\nwinter-plan\n== steps\n      - uses: actions/checkout@v5\n{with}");
        let scene = Slip::read(&slip).scene();
        let project = scene.project();
        let case = project.case(0);
        let own = case.all_effects().any(|(_, _, effect)| matches!(effect.effect, Effect::Checkout { own: true, .. }));
        assert_eq!(own, expected, "{slip}");
    }
}

/// Programs of the repository, and what runs scripts in many packages.
#[test]
fn programs_recipes_and_packages_are_followed() {
    const REPOSITORY: &str = r#"== files
README.md
== scripts/pack.sh
npx vite build && mv dist public
== scripts/stamp.mjs
import { writeFileSync } from 'node:fs'
writeFileSync('out/stamp.txt', 'x')
== Makefile
OUT = public
site: check
	hugo -d $(OUT)
check:
	npx vitest run
== justfile
site:
    mdbook build -d pages
== package.json
{"name": "ferry", "workspaces": ["apps/*"], "scripts": {"test": "./unknown-tool", "stamp": "node scripts/stamp.mjs"}}
== turbo.json
{"tasks": {"build": {"dependsOn": ["^build", "codegen"]}}}
== gulpfile.js
const { src, dest } = require('gulp')
exports.default = () => src('a/*').pipe(require('gulp-sass')()).pipe(dest('styles'))
== deno.json
{"tasks": {"site": "npx astro build"}}
== apps/web/package.json
{"name": "@ferry/web", "scripts": {"build": "vite build"}}
== apps/docs/package.json
{"name": "docs", "scripts": {"build": "vitepress build", "codegen": "mkdir api"}}
"#;
    for (script, expected) in [
        ("bash scripts/pack.sh", vec!["vite builds dist", "move dist to public"]),
        ("./scripts/pack.sh", vec!["vite builds dist", "move dist to public"]),
        ("source ~/.nvm/nvm.sh", vec!["nothing"]),
        ("make site", vec!["test vitest", "write coverage", "write .nyc_output", "hugo builds public"]),
        ("make OUT=live", vec!["test vitest", "write coverage", "write .nyc_output", "hugo builds live"]),
        ("just", vec!["mdbook builds pages"]),
        ("npm test", vec!["npm runs test in ", "test test"]),
        ("node --test", vec!["test node --test", "write coverage"]),
        ("install -d out/a && install x.txt out/a", vec!["folder out/a", "copy x.txt to out/a"]),
        ("npx esbuild a.js --outdir=site && npx sass src:css", vec!["write site", "write css"]),
        ("deno task site", vec!["astro builds dist"]),
        ("npm run build -w apps/web", vec!["npm runs build in apps/web", "vite builds apps/web/dist"]),
        ("npm run build --workspace=@ferry/web", vec!["npm runs build in apps/web", "vite builds apps/web/dist"]),
        ("pnpm --filter web build", vec!["pnpm runs build in apps/web", "vite builds apps/web/dist"]),
        ("pnpm --filter '...web' build", vec!["unknown"]),
        ("yarn workspace docs build", vec!["yarn runs build in apps/docs", "vitepress builds apps/docs/.vitepress/dist"]),
        ("npm run codegen --workspaces --if-present", vec!["npm runs codegen in apps/docs", "folder apps/docs/api"]),
        (
            "npx turbo run build --filter=@ferry/web",
            vec!["vitepress builds apps/docs/.vitepress/dist?", "folder apps/docs/api?", "vite builds apps/web/dist"],
        ),
        ("npx nx affected -t build", vec!["unknown"]),
        ("node scripts/gone.mjs", vec!["unknown"]),
    ] {
        assert_eq!(effects_of(script, REPOSITORY), expected, "{script}");
    }
}

/// What a step cannot do without, and what it cannot do.
#[test]
fn programs_want_what_they_end_without() {
    let wants = |script: &str| -> Vec<String> {
        let text = format!(
            "== files\nx\n== a.mjs\nif (!process.env.TIDE_KEY) throw 1\n== steps\n      - uses: actions/checkout@v5\n      - run: {script}\n"
        );
        let scene = Slip::read(&text).scene();
        let effects = PipelineEffects::of(&scene.prepared[0].pipeline, &scene.facts, &|_| None, followed_of_each(1));
        effects.jobs[0][1].wants.iter().flat_map(|wanted| wanted.variables.clone()).collect()
    };
    assert_eq!(wants("node a.mjs"), ["TIDE_KEY"]);
    assert_eq!(wants("export TIDE_KEY=x && node a.mjs"), Vec::<String>::new());
    assert_eq!(wants("TIDE_KEY=x node a.mjs"), Vec::<String>::new());
    assert_eq!(wants("node --env-file=.env a.mjs"), Vec::<String>::new());
    assert_eq!(wants("test -f y && node b.mjs || node a.mjs"), Vec::<String>::new());
}

#[test]
fn what_is_run_is_followed_on_a_budget() {
    let slip = "== package.json\n{\"scripts\": {\"all\": \"rm a; rm b; rm c\"}}\n== pipeline\non: push\njobs:\n  a:\n    runs-on: x\n    steps:\n      - uses: \
                actions/checkout@v4\n      - run: npm run all\n      - run: npm run all; rm d\n";
    let scene = Slip::read(slip).scene();
    let of = |followed: usize| -> Vec<String> {
        let effects = PipelineEffects::of(&scene.prepared[0].pipeline, &scene.facts, &|_| None, followed);
        let words = |step: &StepEffects| step.effects.iter().map(|one| short(&one.effect)).collect::<Vec<_>>().join(", ");
        effects.jobs[0][1..].iter().map(words).collect()
    };
    let whole = "npm runs all in , remove a, remove b, remove c";
    assert_eq!(of(10), [whole.to_owned(), format!("{whole}, remove d")]);
    assert_eq!(of(4), [whole, "npm runs all in , remove a, unknown, remove d"]);
    assert_eq!(of(3), [whole, "npm runs all in , unknown, remove d"]);
}

/// Jobs of a large pipeline that are looked at by many threads do what they do one after the other, and share their limits.
#[test]
fn many_jobs_at_the_same_time_do_the_same() {
    use std::fmt::Write;
    let mut slip = "== package.json\n{\"scripts\": {\"all\": \"rm a; rm b; rm c\"}}\n== pipeline\non: push\njobs:\n".to_owned();
    for job in 0..60 {
        write!(
            slip,
            "  a{job}:\n    runs-on: x\n    steps:\n      - uses: actions/checkout@v4\n      - run: npm run all; rm d{job}\n"
        )
        .expect("a text");
    }
    let scene = Slip::read(&slip).scene();
    let of =
        |followed: usize| format!("{:?}", PipelineEffects::of(&scene.prepared[0].pipeline, &scene.facts, &|_| None, followed));
    let alone = rayon::ThreadPoolBuilder::new().num_threads(1).build().expect("threads");
    for followed in [1_000, 180, 179, 90, 1] {
        assert!(of(followed) == alone.install(|| of(followed)), "{followed}");
    }
    assert!(of(1_000) != of(90));
}
