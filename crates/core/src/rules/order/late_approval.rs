//! An approval that holds nothing up.

use crate::case::{Case, at};
use crate::finding::{Findings, Severity};
use crate::model::Work;
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.late-approval",
    severity: Severity::Error,
    title: "A person is asked, and the publish does not wait for the answer",
    why: "An approval holds up only what comes after it. Where it stands beside the publish or behind it, the site is online before \
          anybody has said yes.",
    needs: &[],
    bad: &[r#"
== git
main default
== files
index.html
== stages
        - Name: Site
          Actions:
            - Name: «Approve»
              RunOrder: 1
              ActionTypeId: {Category: Approval, Owner: AWS, Provider: Manual, Version: "1"}
            - Name: Publish
              RunOrder: 1
              ActionTypeId: {Category: Deploy, Owner: AWS, Provider: S3, Version: "1"}
              Configuration: {BucketName: tarnsay-timetable, Extract: "true"}
              InputArtifacts: [{Name: ‹Files›}]
"#],
    good: &[r#"
== git
main default
== files
index.html
== stages
        - Name: Trial
          Actions:
            - Name: ToTrial
              ActionTypeId: {Category: Deploy, Owner: AWS, Provider: S3, Version: "1"}
              Configuration: {BucketName: tarnsay-trial, Extract: "true"}
              InputArtifacts: [{Name: Files}]
        - Name: Site
          Actions:
            - Name: Approve
              RunOrder: 1
              ActionTypeId: {Category: Approval, Owner: AWS, Provider: Manual, Version: "1"}
            - Name: Publish
              RunOrder: 2
              ActionTypeId: {Category: Deploy, Owner: AWS, Provider: S3, Version: "1"}
              Configuration: {BucketName: tarnsay-timetable, Extract: "true"}
              InputArtifacts: [{Name: Files}]
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let jobs = &case.pipeline.jobs;
    let asks = |job: &usize| jobs[*job].steps.iter().any(|step| matches!(step.work, Work::Gate)) && !jobs[*job].needs_unknown;
    for gate in (0..jobs.len()).filter(asks) {
        let held = (0..jobs.len()).any(|job| case.pipeline.waits_for(job, gate));
        let before = |job: usize| case.pipeline.waits_for(gate, job);
        let publishes = case.publishes();
        // Beside it, or before it where nothing comes behind.
        let beside = publishes.iter().find(|one| {
            one.job != gate
                && jobs[one.job].stage.as_ref().map(|text| &text.value) == jobs[gate].stage.as_ref().map(|text| &text.value)
                && !before(one.job)
                && !case.pipeline.waits_for(one.job, gate)
        });
        let earlier = publishes.iter().find(|one| before(one.job));
        let (published, severity, told) = match (beside, earlier) {
            (Some(one), _) => (one, Severity::Error, "at the same time"),
            (None, Some(one)) if !held => (one, Severity::Warning, "before it"),
            _ => continue,
        };
        let (approval, name) = (case.job_name(gate), case.job_name(published.job));
        let finding = out.add(jobs[gate].id.at, format!("`{approval}` holds nothing up: `{name}` publishes {told}"));
        finding.severity(severity);
        finding.witness(at(published.effect.at), "this does not wait for the answer");
        finding.mend(pen::write(case, &Ask::WaitFor { job: published.job, other: gate }));
    }
}
