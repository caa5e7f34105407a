//! A filter under an event that takes no such filter.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed};
use crate::knowledge;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.stray-filter",
    severity: Severity::Error,
    title: "An event has a filter that it does not take",
    why: "Each event takes only the filters of its kind: a pull request has a branch that it goes into and no tag, a start by hand has \
          neither. A filter in the wrong place makes the forge refuse the whole file.",
    needs: &[],
    bad: &[
        "== pipeline\non:\n  pull_request:\n    «tags»: [v1]\njobs:\n  a:\n    runs-on: x\n    steps: [{run: ls}]\n",
    ],
    good: &[
        "== pipeline\non:\n  push:\n    tags: [v1]\n  pull_request:\n    types: [opened]\n    paths: [src/**]\n  workflow_run:\n    workflows: [Build]\n    branches: [main]\njobs:\n  a:\n    runs-on: x\n    steps: [{run: ls}]\n",
        "== pipeline\non:\n  merge_group:\n  repository_dispatch:\n    types: [ferry]\njobs:\n  a:\n    runs-on: x\n    steps: [{run: ls}]\n",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if !case.pipeline.exact {
        return;
    }
    for trigger in &case.pipeline.triggers {
        for stray in &trigger.stray {
            let takes = knowledge::filters_of(case.pipeline.dialect, &trigger.name.value);
            let takes = if takes.is_empty() { "takes no filters".to_owned() } else { format!("takes {}", listed(&takes)) };
            let event = &trigger.name.value;
            out.add(stray.at, format!("`{event}` takes no `{}`, so the forge refuses this file and nothing in it runs", stray.value))
                .witness(WitnessSource::Catalog, format!("`{event}` {takes}"))
                .mend(Mend::by_hand(format!("remove `{}` here, or move it under the event that it is meant for", stray.value)));
        }
    }
}
