//! A personal token where the job's own would do.

use crate::case::Case;
use crate::effects::{Effect, own_token};
use crate::finding::{Findings, Severity, WitnessSource};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "permission.borrowed-token",
    severity: Severity::Advice,
    title: "A personal token does what the job's own token can do",
    why: "A personal token belongs to a person, reaches all that the person's account reaches, and stops working when it runs \
          out or the person leaves. The job's own token is made for the run and ends with it.",
    needs: &[],
    bad: &[r"
== steps
      - uses: JamesIves/github-pages-deploy-action@v4
        with:
          folder: dist
          token: «${{ secrets.MY_TOKEN }}»
"],
    good: &[
        r"
== steps
      - uses: JamesIves/github-pages-deploy-action@v4
        with: {folder: dist, token: '${{ secrets.GITHUB_TOKEN }}'}
",
        // The own token does not reach another repository.
        r"
== steps
      - uses: JamesIves/github-pages-deploy-action@v4
        with: {folder: dist, token: '${{ secrets.MY_TOKEN }}', repository-name: ferry/site}
      - uses: peaceiris/actions-gh-pages@v4
        with: {personal_token: '${{ secrets.MY_TOKEN }}', external_repository: ferry/site}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, step, effect) in case.all_effects() {
        let Effect::Publish { branch: Some(_), .. } = &effect.effect else { continue };
        let Some((used, known)) = case.use_of(job, step).and_then(|used| Some((used, used.action?))) else { continue };
        let inputs = used.inputs;
        let Some(grant) = known.grants.iter().find(|grant| grant.token.is_some()) else { continue };
        let elsewhere = ["repository-name", "external_repository", "repo"].iter().any(|name| inputs.get(name).is_some());
        let names = grant.token.iter().copied().chain(["personal_token"]);
        let borrowed = names.filter_map(|name| inputs.get(name)).find(|text| own_token(text) == Some(false));
        let Some(text) = borrowed.filter(|_| !elsewhere) else { continue };
        out.add(text.inner(), "a personal token publishes here, and the job's own token can do it")
            .witness(
                WitnessSource::Catalog,
                format!("with `{}: {}`, the token of the run itself is enough", grant.scope, grant.level),
            )
            .mend(pen::write(case, &Ask::OwnToken { scope: grant.scope, level: grant.level }));
    }
}
