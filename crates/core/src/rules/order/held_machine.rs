//! A machine that waits for a person.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::model::Work;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.held-machine",
    severity: Severity::Advice,
    title: "A machine is held while a person is waited for",
    why: "Steps wait on the machine that they run on. While nobody answers, the machine does nothing else, and other builds queue for it. A \
          stage that runs nowhere can wait as long as it takes.",
    needs: &[],
    bad: &[r"
== Jenkinsfile
pipeline {
    ‹agent { label 'quay' }›
    stages {
        stage('Send') {
            steps {
                «input 'Send the timetable?'»
                sh './send'
            }
        }
    }
}
"],
    good: &[r"
== Jenkinsfile
pipeline {
    agent none
    stages {
        stage('Ask') { steps { input 'Send the timetable?' } }
        stage('Send') {
            agent { label 'quay' }
            input { message 'Sure?' }
            steps { sh './send' }
        }
    }
}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if !case.pipeline.customs.gates_hold_machines {
        return;
    }
    for (number, job) in case.pipeline.jobs.iter().enumerate() {
        let Some(held) = job.machine.at else { continue };
        let gate = job.steps.iter().find(|step| matches!(step.work, Work::Gate) && step.off.is_none());
        let works = case.effects.of_job(number).any(|(_, effect)| !matches!(effect.effect, Effect::Nothing));
        let Some(gate) = gate.filter(|_| works) else { continue };
        out.add(gate.at, "this holds a machine until somebody answers").witness(at(held), "the machine is asked for here").mend(
            Mend::by_hand("ask in a stage of its own with `agent none` round it, and give agents to the stages before and after"),
        );
    }
}
