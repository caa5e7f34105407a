//! Pipelines in good order, of the kinds that people write: Dulk has nothing to say of them but advice.

use crate::house::House;

fn check(name: &str, remote: &str, files: &[(&str, &str)]) {
    let house = House::with_git(files).clone_of(remote);
    let ran = house.dulk(&["check", "--today", "2026-11-25", "--fail-on", "warning"]);
    assert_eq!(ran.code, Some(0), "{name}:\n{}\n{}", ran.out, ran.err);
}

const FORGE: &str = "https://forge.example/tarnsay/timetable.git";
const PIPELINE: &str = ".github/workflows/site.yml";

#[test]
fn plain_pages() {
    check(
        "plain",
        "https://github.com/tarnsay/timetable.git",
        &[
            ("index.html", "<h1>Timetable</h1>"),
            ("style.css", ""),
            (
                PIPELINE,
                "name: Publish\non:\n  push:\n    branches: [main]\n  workflow_dispatch:\npermissions:\n  contents: read\n  pages: write\n  id-token: write\nconcurrency:\n  group: pages\n  cancel-in-progress: false\njobs:\n  publish:\n    environment:\n      name: github-pages\n      url: ${{ steps.deployment.outputs.page_url }}\n    runs-on: ubuntu-latest\n    steps:\n      - name: Checkout\n        uses: actions/checkout@v4\n      - name: Setup Pages\n        uses: actions/configure-pages@v5\n      - name: Upload artifact\n        uses: actions/upload-pages-artifact@v3\n        with:\n          path: '.'\n      - name: Deploy\n        id: deployment\n        uses: actions/deploy-pages@v4\n",
            ),
        ],
    );
}

#[test]
fn vite_with_pages_in_two_jobs() {
    check(
        "vite",
        "git@github.com:tarnsay/timetable.git",
        &[
            (
                "package.json",
                "{\"scripts\": {\"build\": \"vite build\", \"test\": \"vitest run\", \"lint\": \"eslint .\"}, \"devDependencies\": {\"vite\": \"7\", \"vitest\": \"3\"}}",
            ),
            (
                "package-lock.json",
                "{\"lockfileVersion\": 3, \"packages\": {\"\": {\"devDependencies\": {\"vite\": \"7\", \"vitest\": \"3\"}}}}",
            ),
            ("vite.config.js", "import { defineConfig } from 'vite'\nexport default defineConfig({ base: '/timetable/' })\n"),
            ("index.html", ""),
            ("src/main.js", "console.log(import.meta.env.BASE_URL)"),
            (
                PIPELINE,
                "name: Site\non:\n  push:\n    branches: [main]\n  pull_request:\npermissions:\n  contents: read\nconcurrency:\n  group: ${{ github.workflow }}-${{ github.ref }}\njobs:\n  build:\n    runs-on: ubuntu-latest\n    timeout-minutes: 10\n    steps:\n      - uses: actions/checkout@v5\n      - uses: actions/setup-node@v5\n        with:\n          node-version: 22\n          cache: npm\n      - run: npm ci\n      - run: npm run lint\n      - run: npm test\n      - run: npm run build\n      - uses: actions/upload-pages-artifact@v4\n        if: github.ref == 'refs/heads/main'\n        with:\n          path: dist\n  publish:\n    if: github.event_name == 'push' && github.ref == 'refs/heads/main'\n    needs: build\n    runs-on: ubuntu-latest\n    timeout-minutes: 10\n    permissions:\n      pages: write\n      id-token: write\n    environment:\n      name: github-pages\n      url: ${{ steps.pages.outputs.page_url }}\n    steps:\n      - id: pages\n        uses: actions/deploy-pages@v4\n",
            ),
        ],
    );
}

#[test]
fn generators_with_a_branch_for_pages() {
    for (name, files, build, folder) in [
        (
            "hugo",
            vec![("hugo.toml", "baseURL = 'https://tarnsay.example/'\n"), ("content/a.md", "")],
            "      - uses: peaceiris/actions-hugo@v3\n        with: {hugo-version: '0.150.0', extended: true}\n      - run: hugo --minify\n",
            "./public",
        ),
        (
            "mkdocs",
            vec![("mkdocs.yml", "site_name: Ferry\n"), ("docs/index.md", ""), ("requirements.txt", "mkdocs\n")],
            "      - uses: actions/setup-python@v6\n        with: {python-version: '3.13'}\n      - run: pip install -r requirements.txt\n      - run: mkdocs build --strict\n",
            "site",
        ),
        (
            "jekyll",
            vec![("_config.yml", "title: Ferry\n"), ("Gemfile", "gem 'jekyll'\n"), ("index.md", "")],
            "      - uses: ruby/setup-ruby@v1\n        with: {ruby-version: '3.4', bundler-cache: true}\n      - run: bundle exec jekyll build\n        env: {JEKYLL_ENV: production}\n",
            "_site",
        ),
        (
            "eleventy",
            vec![
                ("package.json", "{\"scripts\": {\"build\": \"eleventy\"}, \"devDependencies\": {\"@11ty/eleventy\": \"3\"}}"),
                ("yarn.lock", ""),
                ("index.md", ""),
            ],
            "      - uses: actions/setup-node@v5\n        with: {node-version: 22, cache: yarn}\n      - run: yarn install --frozen-lockfile\n      - run: yarn build\n",
            "_site",
        ),
    ] {
        let text = format!(
            "name: Publish\non:\n  push:\n    branches: [main]\npermissions:\n  contents: write\nconcurrency: publish\njobs:\n  publish:\n    runs-on: ubuntu-latest\n    timeout-minutes: 10\n    steps:\n      - uses: actions/checkout@v5\n        with:\n          fetch-depth: 0\n{build}      - uses: peaceiris/actions-gh-pages@v4\n        with:\n          github_token: ${{{{ secrets.GITHUB_TOKEN }}}}\n          publish_dir: {folder}\n"
        );
        let mut all = files;
        all.push((PIPELINE, &text));
        check(name, FORGE, &all);
    }
}

#[test]
fn a_monorepo_with_a_working_directory() {
    check(
        "monorepo",
        FORGE,
        &[
            ("package.json", "{\"private\": true, \"workspaces\": [\"apps/*\"]}"),
            ("pnpm-lock.yaml", "lockfileVersion: '9.0'\n"),
            ("pnpm-workspace.yaml", "packages: ['apps/*']\n"),
            ("apps/web/package.json", "{\"scripts\": {\"build\": \"astro build\"}, \"dependencies\": {\"astro\": \"5\"}}"),
            ("apps/web/src/pages/index.astro", ""),
            (
                PIPELINE,
                "name: Web\non:\n  push:\n    branches: [main]\n    paths: ['apps/web/**', pnpm-lock.yaml, .github/workflows/site.yml]\npermissions: {contents: read}\njobs:\n  web:\n    runs-on: ubuntu-latest\n    timeout-minutes: 10\n    concurrency: web\n    defaults:\n      run:\n        working-directory: apps/web\n    steps:\n      - uses: actions/checkout@v5\n      - uses: pnpm/action-setup@v4\n        with: {version: 10}\n      - uses: actions/setup-node@v5\n        with: {node-version: 22, cache: pnpm}\n      - run: pnpm install --frozen-lockfile\n      - run: pnpm build\n      - run: rsync -a --delete dist/ ${{ secrets.TARGET }}\n",
            ),
        ],
    );
}

#[test]
fn staging_and_production_side_by_side() {
    let pipeline = |branch: &str, environment: &str| {
        format!(
            "name: {environment}\non:\n  push:\n    branches: [{branch}]\npermissions: {{contents: read}}\nconcurrency: {environment}\njobs:\n  publish:\n    runs-on: ubuntu-latest\n    timeout-minutes: 10\n    environment: {environment}\n    steps:\n      - uses: actions/checkout@v5\n      - uses: actions/setup-node@v5\n        with: {{node-version-file: .nvmrc, cache: npm}}\n      - run: npm ci\n      - run: npm run build\n        env:\n          VITE_API: ${{{{ vars.API }}}}\n      - name: Put it online\n        run: |\n          install -m 600 -D /dev/null ~/.ssh/id\n          echo \"${{{{ secrets.SSH_KEY }}}}\" > ~/.ssh/id\n          rsync -az --delete dist/ \"$TARGET\"\n        env:\n          TARGET: ${{{{ secrets.TARGET }}}}\n"
        )
    };
    let (live, staging) = (pipeline("main", "production"), pipeline("staging", "staging"));
    let files = [
        ("package.json", "{\"scripts\": {\"build\": \"tsc -b && vite build\"}, \"devDependencies\": {\"vite\": \"7\"}}"),
        ("package-lock.json", "{\"lockfileVersion\": 3, \"packages\": {\"\": {\"devDependencies\": {\"vite\": \"7\"}}}}"),
        (".nvmrc", "22\n"),
        ("src/api.ts", "export const api = import.meta.env.VITE_API;"),
        (".github/workflows/live.yml", live.as_str()),
        (".github/workflows/staging.yml", staging.as_str()),
    ];
    let house = House::with_git(&files);
    house.git(&["branch", "staging"]);
    let ran = house.dulk(&["check", "--fail-on", "warning"]);
    assert_eq!(ran.code, Some(0), "{}", ran.out);
}

#[test]
fn hosts_with_commands_of_their_own() {
    for (name, step) in [
        (
            "netlify",
            "      - run: npx netlify deploy --dir=dist --prod\n        env:\n          NETLIFY_AUTH_TOKEN: ${{ secrets.NETLIFY_AUTH_TOKEN }}\n          NETLIFY_SITE_ID: ${{ secrets.NETLIFY_SITE_ID }}\n",
        ),
        (
            "pages",
            "      - uses: cloudflare/wrangler-action@v3\n        with:\n          apiToken: ${{ secrets.CLOUDFLARE_API_TOKEN }}\n          accountId: ${{ secrets.CLOUDFLARE_ACCOUNT_ID }}\n          command: pages deploy dist --project-name=timetable\n",
        ),
        (
            "bucket",
            "      - uses: aws-actions/configure-aws-credentials@v5\n        with: {role-to-assume: '${{ vars.ROLE }}', aws-region: eu-west-1}\n      - run: aws s3 sync dist s3://tarnsay-timetable --delete\n",
        ),
        (
            "ftp",
            "      - uses: SamKirkland/FTP-Deploy-Action@v4.3.6\n        with:\n          server: ftp.tarnsay.example\n          username: ${{ secrets.FTP_USER }}\n          password: ${{ secrets.FTP_PASSWORD }}\n          local-dir: ./dist/\n",
        ),
        (
            "firebase",
            "      - uses: FirebaseExtended/action-hosting-deploy@v0\n        with:\n          repoToken: ${{ secrets.GITHUB_TOKEN }}\n          firebaseServiceAccount: ${{ secrets.SERVICE_ACCOUNT }}\n          channelId: live\n          projectId: tarnsay\n",
        ),
    ] {
        let text = format!(
            "name: Publish\non:\n  push:\n    branches: [main]\npermissions:\n  contents: read\n{}concurrency: publish\njobs:\n  publish:\n    runs-on: ubuntu-latest\n    timeout-minutes: 15\n    steps:\n      - uses: actions/checkout@v5\n      - uses: actions/setup-node@v5\n        with:\n          node-version: 22\n          cache: npm\n      - run: npm ci\n      - run: npm run build --if-present\n{step}",
            match name {
                "bucket" => "  id-token: write\n",
                "firebase" => "  checks: write\n  pull-requests: write\n",
                _ => "",
            }
        );
        check(
            name,
            FORGE,
            &[
                ("package.json", "{\"scripts\": {\"build\": \"vite build\"}, \"devDependencies\": {\"vite\": \"7\"}}"),
                ("package-lock.json", "{\"lockfileVersion\": 3, \"packages\": {\"\": {\"devDependencies\": {\"vite\": \"7\"}}}}"),
                ("index.html", ""),
                (PIPELINE, &text),
            ],
        );
    }
}

#[test]
fn a_called_pipeline_and_one_that_follows() {
    check(
        "calls",
        FORGE,
        &[
            ("package.json", "{\"scripts\": {\"build\": \"vite build\"}, \"devDependencies\": {\"vite\": \"7\"}}"),
            ("package-lock.json", "{\"lockfileVersion\": 3, \"packages\": {\"\": {\"devDependencies\": {\"vite\": \"7\"}}}}"),
            (
                ".github/workflows/build.yml",
                "name: Build\non:\n  workflow_call:\n    inputs:\n      folder: {type: string, default: dist}\n    outputs:\n      page:\n        value: ${{ jobs.build.outputs.page }}\njobs:\n  build:\n    runs-on: ubuntu-latest\n    outputs:\n      page: ${{ steps.make.outputs.page }}\n    steps:\n      - uses: actions/checkout@v5\n      - uses: actions/setup-node@v5\n        with: {node-version: 22, cache: npm}\n      - run: npm ci\n      - id: make\n        run: |\n          npm run build\n          echo \"page=index\" >> \"$GITHUB_OUTPUT\"\n      - uses: actions/upload-artifact@v4\n        with:\n          name: site\n          path: ${{ inputs.folder }}\n",
            ),
            (
                ".github/workflows/ci.yml",
                "name: CI\non:\n  push:\n    branches: [main]\njobs:\n  build:\n    uses: ./.github/workflows/build.yml\n    with: {folder: dist}\n  tell:\n    needs: build\n    runs-on: ubuntu-latest\n    steps:\n      - run: echo ${{ needs.build.outputs.page }}\n",
            ),
            (
                ".github/workflows/after.yml",
                "name: After\non:\n  workflow_run:\n    workflows: [CI]\n    types: [completed]\npermissions: {actions: read}\njobs:\n  publish:\n    if: github.event.workflow_run.conclusion == 'success'\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/download-artifact@v5\n        with:\n          name: site\n          path: dist\n          run-id: ${{ github.event.workflow_run.id }}\n          github-token: ${{ secrets.GITHUB_TOKEN }}\n      - run: rsync -a dist/ ${{ secrets.TARGET }}\n        if: ${{ !cancelled() && success() }}\n",
            ),
        ],
    );
}
