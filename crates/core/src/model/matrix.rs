//! The combinations that a job runs for.

use super::Text;
use crate::text::Place;

/// The combinations a job runs for.
#[derive(Clone, Debug)]
pub struct Matrix {
    /// Where it stands.
    pub at: Place,
    /// Keys and their values; values that are not plain words are left out.
    pub axes: Vec<(Text, Vec<Text>)>,
    /// Combinations that are added, or that add to others, each with its keys and plain values.
    pub included: Vec<Vec<(Text, Text)>>,
    /// Combinations that are taken away.
    pub excluded: Vec<Vec<(Text, Text)>>,
    /// All that is written is plain words, so that every combination is known.
    pub plain: bool,
    /// Every name that a combination may hold.
    pub names: Vec<Text>,
    /// There may be more names.
    pub open: bool,
    /// How many combinations there are, when that is known.
    pub legs: Option<usize>,
}

/// One combination: its names with their values.
pub type Leg<'m> = Vec<(&'m str, &'m Text)>;

/// More than any forge runs.
const LEG_LIMIT: usize = 256;

impl Matrix {
    /// All combinations in the order in which they are made; nothing when they are not known, or too many.
    /// After the format's page "Run variations of jobs in a workflow": what is excluded goes first; an entry that is included adds to
    /// each combination of which it changes no value of an axis, and is one of its own where there is none.
    pub fn combinations(&self) -> Option<Vec<Leg<'_>>> {
        if !self.plain {
            return None;
        }
        let mut legs = self.product()?;
        let fits = |leg: &Leg<'_>, entry: &[(Text, Text)]| {
            entry.iter().all(|(name, value)| leg.iter().any(|(known, one)| *known == name.value && one.value == value.value))
        };
        legs.retain(|leg| !self.excluded.iter().any(|entry| fits(leg, entry)));
        let of_axes = legs.len();
        for entry in &self.included {
            let mut added = false;
            for leg in &mut legs[..of_axes] {
                let is_axis = |name: &str| self.axes.iter().any(|(axis, _)| axis.value == name);
                let changes = entry.iter().any(|(name, value)| {
                    is_axis(&name.value) && !leg.iter().any(|(known, one)| *known == name.value && one.value == value.value)
                });
                if !changes {
                    leg.retain(|(known, _)| is_axis(known) || !entry.iter().any(|(name, _)| name.value == *known));
                    leg.extend(
                        entry.iter().filter(|(name, _)| !is_axis(&name.value)).map(|(name, value)| (name.value.as_str(), value)),
                    );
                    added = true;
                }
            }
            if !added {
                legs.push(entry.iter().map(|(name, value)| (name.value.as_str(), value)).collect());
            }
        }
        (legs.len() <= LEG_LIMIT).then_some(legs)
    }

    fn product(&self) -> Option<Vec<Leg<'_>>> {
        let mut legs: Vec<Leg<'_>> = if self.axes.is_empty() { Vec::new() } else { vec![Vec::new()] };
        for (name, values) in &self.axes {
            if legs.len().saturating_mul(values.len()) > LEG_LIMIT {
                return None;
            }
            let mut wider: Vec<Leg<'_>> = Vec::with_capacity(legs.len() * values.len());
            for leg in &legs {
                for value in values {
                    wider.push(leg.iter().copied().chain([(name.value.as_str(), value)]).collect());
                }
            }
            legs = wider;
        }
        Some(legs)
    }
}

#[cfg(test)]
mod tests {
    use crate::text::{SourceFile, Sources};

    /// The combinations of a matrix, each as `name=value` in the order of the names.
    fn combinations(matrix: &str) -> Option<Vec<String>> {
        let text =
            format!("on: push\njobs:\n  a:\n    strategy:\n      matrix: {matrix}\n    runs-on: x\n    steps: [{{run: ls}}]\n");
        let mut sources = Sources::default();
        let file = sources.add(SourceFile::new(".github/workflows/a.yml", text));
        let prepared = crate::formats::prepare_alone(file, sources.get(file), crate::formats::all()[0]).remove(0);
        let matrix = prepared.pipeline.jobs[0].matrix.as_ref()?;
        let shown = |leg: &super::Leg<'_>| {
            let mut parts: Vec<String> = leg.iter().map(|(name, value)| format!("{name}={}", value.value)).collect();
            parts.sort();
            parts.join(" ")
        };
        let found: Vec<String> = matrix.combinations()?.iter().map(shown).collect();
        assert_eq!(matrix.legs, Some(found.len()));
        Some(found)
    }

    #[test]
    fn what_is_included_and_excluded_counts() {
        for (matrix, expected) in [
            ("{os: [u, w], node: [20, 22]}", vec!["node=20 os=u", "node=22 os=u", "node=20 os=w", "node=22 os=w"]),
            ("{os: [u, w], node: [20, 22], exclude: [{os: w}]}", vec!["node=20 os=u", "node=22 os=u"]),
            ("{os: [u, w], exclude: [{os: w, node: 20}]}", vec!["os=u", "os=w"]),
            ("{include: [{os: u}, {os: w, live: true}]}", vec!["os=u", "live=true os=w"]),
            ("{os: [u], include: [{os: u, live: true}, {os: m}]}", vec!["live=true os=u", "os=m"]),
            ("{os: [u, w], include: [{colour: red}, {os: w, colour: blue}]}", vec!["colour=red os=u", "colour=blue os=w"]),
        ] {
            assert_eq!(combinations(matrix).unwrap_or_default(), expected, "{matrix}");
        }
    }

    #[test]
    fn what_is_not_plain_is_not_known() {
        for matrix in
            ["{os: '${{ fromJSON(inputs.all) }}'}", "{os: [{name: u}]}", "{include: [{os: [u]}]}", "{os: [u, '${{ vars.B }}']}"]
        {
            assert_eq!(combinations(matrix), None, "{matrix}");
        }
        let wide = format!("{{a: {0:?}, b: {0:?}}}", (0..40).collect::<Vec<u32>>());
        assert_eq!(combinations(&wide), None);
    }
}
