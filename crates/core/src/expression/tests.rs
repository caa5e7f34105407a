use super::*;
use proptest::prelude::*;

fn read(text: &str) -> Result<Expr, ExprError> {
    parse(text, 0..text.len())
}

/// An expression with all brackets that its precedence means.
fn shape(expr: &Expr) -> String {
    match &expr.kind {
        ExprKind::Null => "null".into(),
        ExprKind::Bool(truth) => truth.to_string(),
        ExprKind::Number(number) => number.to_string(),
        ExprKind::Text(text) => format!("'{text}'"),
        ExprKind::Name(name) => name.clone(),
        ExprKind::Property(inner, name, _) => format!("{}.{name}", shape(inner)),
        ExprKind::Index(inner, index) => format!("{}[{}]", shape(inner), shape(index)),
        ExprKind::Filter(inner) => format!("{}.*", shape(inner)),
        ExprKind::Call(name, arguments) => format!("{name}({})", arguments.iter().map(shape).collect::<Vec<_>>().join(", ")),
        ExprKind::Not(inner) => format!("!{}", shape(inner)),
        ExprKind::Matches(inner, pattern, ..) => format!("({} matches {pattern})", shape(inner)),
        ExprKind::Binary(operator, left, right) => format!("({} {operator:?} {})", shape(left), shape(right)),
    }
}

#[test]
fn precedence_and_access_are_the_formats() {
    for (text, expected) in [
        ("a || b && c == d", "(a Or (b And (c Equal d)))"),
        ("!a.b && c < 3", "(!a.b And (c Less 3))"),
        ("a == b || c != 'it''s'", "((a Equal b) Or (c NotEqual 'it's'))"),
        ("(a || b) && c", "((a Or b) And c)"),
        ("github.event.commits.*.author[0]['x-y']", "github.event.commits.*.author[0]['x-y']"),
        ("contains(fromJSON('[1]'), -2.5e3)", "contains(fromJSON('[1]'), -2500)"),
        ("steps.set-up.outputs.a-b", "steps.set-up.outputs.a-b"),
        ("0x1F >= null", "(31 GreaterOrEqual null)"),
    ] {
        assert_eq!(read(text).map(|expr| shape(&expr)).as_deref(), Ok(expected), "{text}");
    }
}

#[test]
fn errors_point_at_the_place_and_say_why() {
    for (text, start, part) in [
        ("a = b", 2, "=="),
        ("a == \"b\"", 5, "single quotes"),
        ("a &&", 4, "stops"),
        ("f(a, ", 5, "stops"),
        ("(a", 2, "missing"),
        ("a b", 2, "operator"),
        ("'abc", 0, "never closed"),
        ("", 0, "nothing"),
        ("a | b", 2, "||"),
        ("$x", 0, "$"),
    ] {
        let error = read(text).err().unwrap_or_else(|| panic!("{text} is read"));
        assert_eq!(error.range.start, start, "{text}: {}", error.reason);
        assert!(error.reason.contains(part), "{text}: {}", error.reason);
    }
}

#[test]
fn holes_pass_over_quoted_braces() {
    let text = "a ${{ 'x }} y' }} b ${{ z }} ${{ open";
    let found = holes(text);
    assert_eq!(found.len(), 3);
    assert_eq!(&text[found[0].range.clone()], "${{ 'x }} y' }}");
    assert_eq!(found[1].inside.as_ref().map(shape).as_deref(), Ok("z"));
    assert!(found[2].inside.is_err());
}

#[test]
fn paths_are_dotted_names_and_literal_indices() {
    let expr = read("needs['build'].outputs.page").unwrap_or_else(|error| panic!("{error:?}"));
    let path: Vec<_> = expr.path().unwrap_or_default().into_iter().map(|(name, _)| name.to_owned()).collect();
    assert_eq!(path, ["needs", "build", "outputs", "page"]);
}

#[test]
fn hostile_expressions_are_refused_not_followed() {
    assert!(read(&"(".repeat(10_000)).is_err());
    assert!(read(&"!".repeat(20_000)).is_err());
    assert!(read(&format!("a{}", ".b".repeat(9_000))).is_err());
    assert!(read(&"a||".repeat(40_000)).is_err());
}

proptest! {
    #[test]
    fn any_text_gives_ranges_that_fit(text in "[a-c.'()\\[\\]!&|=<>0-9, *é\"-]{0,60}") {
        match read(&text) {
            Ok(expr) => expr.walk(&mut |part| assert!(text.get(part.range.clone()).is_some())),
            Err(error) => prop_assert!(text.get(error.range.clone()).is_some(), "{error:?}"),
        }
    }
}

#[test]
fn a_long_chain_is_not_deep() {
    let chain = |name: &str, word: &str, times: usize| vec![name; times].join(word);
    for parsed in [
        parse_variables(&chain("$TIDE", " || ", 100_000)),
        parse_variables(&chain("$TIDE", " && ", 100_000)),
        parse(&chain("a", "||", 6_000), 0..17_998),
        parse(&chain("a", "&&", 5_000), 0..14_998),
    ] {
        let mut open = vec![(parsed.expect("it is well-formed"), 0)];
        while let Some((expression, depth)) = open.pop() {
            assert!(depth < 20);
            if let ExprKind::Binary(_, left, right) = expression.kind {
                open.extend([(*left, depth + 1), (*right, depth + 1)]);
            }
        }
    }
    assert!(parse_variables(&"(".repeat(100_000)).is_err());
}
