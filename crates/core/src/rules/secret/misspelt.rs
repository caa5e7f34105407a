//! A secret that is read in a way that reads nothing.

use crate::carrier::yaml::edit::in_flow;
use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::model::Text;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "secret.misspelt",
    severity: Severity::Error,
    title: "A secret is read in a way that reads nothing",
    why: "Secrets are read as ${{ secrets.NAME }}. Written otherwise it is an ordinary text, or a variable of the shell that \
          does not exist: the step gets an empty value, or the words themselves.",
    needs: &[],
    bad: &[
        r"
== steps
      - run: ./build
        env: {SITE: '«${ vars.SITE_URL }»'}
",
        r"
== steps
      - run: ./publish «${secrets.HOST_KEY}»
",
    ],
    good: &[r"
== steps
      - run: |
          ./publish ${{ secrets.HOST_KEY }} ${{secrets.OTHER}}
          cat secrets.json $secrets/x {{ other }}
        env: {KEY: '${{ secrets.HOST_KEY }}', TEXT: 'reads secrets.HOST_KEY by name'}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for step in case.pipeline.jobs.iter().flat_map(|job| &job.steps) {
        let condition = step.condition().map(|condition| condition.text.at);
        for text in super::texts_of(step).filter(|text| Some(text.at) != condition) {
            look(case, text, out);
        }
    }
    let values = case.pipeline.variables.entries.iter().chain(case.pipeline.jobs.iter().flat_map(|job| &job.variables.entries));
    values.for_each(|(_, value)| look(case, value, out));
}

fn look(case: &Case<'_>, text: &Text, out: &mut Findings) {
    // Most texts hold neither, and that is seen sooner than where it stands.
    for context in ["secrets", "vars"].into_iter().filter(|context| text.value.contains(context)) {
        for (index, _) in text.value.match_indices(context) {
            if text.value[index + context.len()..].starts_with('.') {
                look_at(case, text, context, index, out);
            }
        }
    }
}

fn look_at(case: &Case<'_>, text: &Text, context: &str, index: usize, out: &mut Findings) {
    let value = &text.value;
    let from = index + context.len() + 1;
    let length = value[from..].bytes().take_while(|byte| byte.is_ascii_alphanumeric() || *byte == b'_').count();
    let (name, end) = (&value[from..from + length], from + length);
    if length < 2 || name.bytes().any(|byte| byte.is_ascii_lowercase()) {
        return;
    }
    let (before, after) = (value[..index].trim_end(), value[end..].trim_start());
    let range = if before.ends_with("{{") && !before.ends_with("${{") && after.starts_with("}}") {
        before.len() - 2..value.len() - after.len() + 2
    } else if before.ends_with("${") && after.starts_with('}') && !after.starts_with("}}") {
        before.len() - 2..value.len() - after.len() + 1
    } else if value[..index].ends_with('$') || (index == 0 && end == value.len()) {
        index..end
    } else {
        return;
    };
    let dollar = usize::from(value[..range.start].ends_with('$') && range.start == index);
    let right = format!("${{{{ {context}.{name} }}}}");
    let place = text.place(range.clone());
    let whole = text.place(range.start - dollar..range.end);
    let what = if context == "secrets" { "secret" } else { "variable" };
    let title = format!("write {right}");
    // Between braces and brackets of the file's own, the braces of a hole need quotes round the text.
    let mend = match in_flow(case.sources, text) {
        false => Mend::certain(title, [Edit::replace(whole, right)]),
        true if whole == text.at => Mend::certain(title, [Edit::replace(whole, format!("'{right}'"))]),
        true => Mend::by_hand(title),
    };
    out.add(place, format!("this does not read the {what} `{name}`: it is only a text"))
        .witness(WitnessSource::Catalog, format!("a {what} is read as ${{{{ {context}.NAME }}}}"))
        .mend(mend);
}
