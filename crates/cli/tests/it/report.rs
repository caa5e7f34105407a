//! The page and the comment, and what they make of words that others wrote.

use std::collections::BTreeSet;
use std::fs;

use pulldown_cmark::{Event, Options, Parser, Tag, TagEnd};

use crate::house::House;

/// The demo with its faults, in a folder of its own.
pub fn faulty_demo() -> House {
    let house = House::new(&[]);
    assert_eq!(house.dulk(&["demo", "--keep", "tour"]).code, Some(0));
    house
}

/// What a reader sees of a page, line by line, without drawings.
fn words_of(page: &str) -> String {
    let mut text = String::new();
    let mut rest = page;
    while let Some(start) = rest.find('<') {
        text.push_str(&rest[..start]);
        let tag = &rest[start..];
        let (end, gap) = if tag.starts_with("<style") {
            (tag.find("</style>").expect("its end") + 8, "")
        } else if tag.starts_with("<svg") {
            (tag.find("</svg>").expect("its end") + 6, "")
        } else {
            let inline = ["<span", "</span", "<code", "</code", "<a ", "</a", "<strong", "</strong", "<mark", "</mark"];
            let is_row = tag.starts_with("<span class=\"row");
            let end = tag.find('>').expect("its end") + 1;
            (end, if is_row || !inline.iter().any(|name| tag.starts_with(name)) { "\n" } else { "" })
        };
        text.push_str(gap);
        rest = &tag[end..];
    }
    text.push_str(rest);
    let lines = text.lines().map(str::trim_end).filter(|line| !line.trim().is_empty());
    lines.collect::<Vec<_>>().join("\n").replace("&quot;", "\"").replace("&lt;", "<").replace("&gt;", ">").replace("&amp;", "&")
}

#[test]
fn the_page_tells_all_of_the_demo_in_the_order_of_work() {
    let house = faulty_demo();
    let ran = house.dulk_in("tour/faulty", &["report"]);
    assert_eq!((ran.code, ran.err.as_str()), (Some(0), ""));
    assert_eq!(ran.out, "dulk-report.html is written: 11 errors and 1 warning in 2 pipeline files.\n");
    let page = fs::read_to_string(house.path().join("tour/faulty/dulk-report.html")).expect("the page");
    assert!(page.len() < 300_000, "{}", page.len());
    insta::assert_snapshot!(words_of(&page));
    let again = house.dulk_in("tour/faulty", &["report", "--output", "-"]);
    assert_eq!(again.out.trim_end(), page.trim_end());
}

#[test]
fn the_comment_tells_the_same() {
    let house = faulty_demo();
    let ran = house.dulk_in("tour/faulty", &["report", "--format", "markdown", "--output", "-"]);
    insta::assert_snapshot!(ran.out);
    let clean = house.dulk_in("tour/healthy", &["report", "--format", "markdown"]);
    assert_eq!(clean.out, "dulk-report.md is written: Nothing wrong found in 2 pipeline files.\n");
}

#[test]
fn a_comment_stays_within_its_length() {
    let job = |number| {
        format!("  job-{number}:\n    needs: absent-{number}\n    runs-on: ubuntu-latest\n    steps: [{{ run: date }}]\n")
    };
    let jobs: String = (0..400).map(job).collect();
    let house = House::new(&[(".github/workflows/a.yml", &format!("on: push\njobs:\n{jobs}"))]);
    let ran = house.dulk(&["report", "--format", "markdown", "--output", "-"]);
    assert!(ran.out.chars().count() < 60_000, "{}", ran.out.chars().count());
    assert!(ran.out.contains("findings more do not fit into a comment."));
    assert_eq!(ran.out.matches("<details>").count(), ran.out.matches("</details>").count());
}

#[test]
fn nothing_to_report_is_said_too() {
    let house = House::with_git(&[("index.html", "<p>Ferry</p>")]);
    let page = house.dulk(&["report", "--output", "-"]).out;
    assert!(page.contains("There is no pipeline file here, so nothing puts a site online."), "{page}");
    let comment = house.dulk(&["report", "--format", "markdown", "--output", "-"]).out;
    assert!(comment.starts_with("### • There is no pipeline file here"), "{comment}");
}

#[test]
fn a_report_that_cannot_be_written_is_told_in_a_line() {
    let house = House::with_git(&[("index.html", "<p>Ferry</p>")]);
    let ran = house.dulk(&["report", "--output", "no/such/folder/page.html"]);
    assert_eq!(ran.code, Some(2));
    assert!(ran.err.starts_with("dulk: no/such/folder/page.html cannot be written"), "{}", ran.err);
    assert_eq!(ran.err.lines().count(), 1);
}

/// Words that would do something if they were taken as they are.
pub const TRICKS: [&str; 7] = [
    "<script>alert(1)</script>",
    "\"><img src=x onerror=alert(2)>",
    "'onmouseover='alert(3)",
    "]]></style></svg><b>",
    "a\u{202e}b\u{200b}c",
    "bell\u{7}\u{9b}31mred",
    "![x](https://quay.example/x.png) @pier",
];

/// A repository in which they stand in names of files, branches, jobs, artifacts and folders.
pub fn tricked() -> House {
    let letter = |letter: char| match letter {
        '"' | '\\' => format!("\\{letter}"),
        letter if letter.is_ascii_graphic() || letter == ' ' => letter.to_string(),
        letter => format!("\\u{:04x}", u32::from(letter)),
    };
    let quoted: Vec<String> =
        TRICKS.iter().map(|words| format!("\"{}\"", words.chars().map(letter).collect::<String>())).collect();
    let jobs: String = quoted
        .iter()
        .enumerate()
        .map(|(number, words)| {
            format!(
                "  j{number}:\n    runs-on: ubuntu-latest\n    needs: {words}\n    steps:\n      - name: {words}\n        run: npm run {words}\n        env: {{ TIDE: \"${{{{ secrets.TIDE{number} }}}}\" }}\n      - run: rsync -a dist/ pier@north.tarnsay.example:/srv/{number}/\n      - uses: actions/upload-artifact@v4\n        with: {{ name: {words}, path: {words} }}\n"
            )
        })
        .collect();
    let pipeline = format!("on: {{ push: {{ branches: [{}] }} }}\njobs:\n{jobs}", quoted.join(", "));
    let house = House::with_git(&[("package.json", "{\"scripts\": {}}"), (".github/workflows/sail.yml", &pipeline)]);
    house.git(&["branch", "--", "<script>alert(4)</script>"]);
    #[cfg(unix)]
    house.write(".github/workflows/<script>alert(5)<br>.yml", &pipeline);
    house
}

#[test]
fn words_of_others_do_nothing_in_a_page_or_a_drawing() {
    let house = tricked();
    for args in [&["report", "--output", "-"][..], &["trail", "--format", "svg"]] {
        let out = house.dulk(args).out;
        for trick in ["<script", "<img", "<b>", "]]></style", "\u{202e}", "\u{200b}", "\u{7}", "\u{9b}"] {
            assert!(!out.contains(trick), "{args:?} holds {trick}");
        }
        // A quote would end an attribute: ours hold no words of others but escaped ones.
        assert!(!out.contains("'onmouseover") || !out.contains("='onmouseover"), "{args:?}");
        assert!(out.contains("&lt;script&gt;alert(1)&lt;/script&gt;"), "{args:?}");
    }
}

/// What a comment is made of besides text: HTML, links and pictures.
fn made_of(comment: &str) -> (BTreeSet<String>, Vec<String>) {
    let (mut html, mut links) = (BTreeSet::new(), Vec::new());
    for event in Parser::new_ext(comment, Options::ENABLE_TABLES) {
        match event {
            Event::Html(text) | Event::InlineHtml(text) => {
                let tags = text.split('<').skip(1).map(|tag| tag.split(['>', ' ']).next().unwrap_or_default().to_owned());
                html.extend(tags);
            }
            Event::Start(Tag::Link { dest_url, .. } | Tag::Image { dest_url, .. }) => links.push(dest_url.to_string()),
            _ => {}
        }
    }
    (html, links)
}

#[test]
fn words_of_others_do_nothing_in_a_comment() {
    let out = tricked().dulk(&["report", "--format", "markdown", "--output", "-"]).out;
    let (html, links) = made_of(&out);
    let ours = ["!--", "/code", "/details", "/summary", "code", "details", "summary"];
    assert_eq!(html.iter().map(String::as_str).collect::<Vec<_>>(), ours);
    assert_eq!(links, Vec::<String>::new());
    // Outside of code a forge looks for names that it calls.
    let mut in_code = false;
    for event in Parser::new_ext(&out, Options::ENABLE_TABLES) {
        match event {
            Event::Start(Tag::CodeBlock(_)) => in_code = true,
            Event::End(TagEnd::CodeBlock) => in_code = false,
            Event::Text(text) => assert!(in_code || !text.contains("@pier"), "{text}"),
            _ => {}
        }
    }
    for trick in ["\u{202e}", "\u{200b}", "\u{7}", "\u{9b}"] {
        assert!(!out.contains(trick));
    }
}

#[test]
fn the_drawing_is_whole_xml_of_its_own_kind() {
    let mut drawings = vec![tricked().dulk(&["trail", "--format", "svg"]).out];
    let demo = faulty_demo();
    for copy in ["healthy", "faulty", "healthy_gitlab", "faulty_gitlab", "other_formats"] {
        drawings.push(demo.dulk_in(&format!("tour/{copy}"), &["trail", "--format", "svg"]).out);
    }
    for drawing in drawings {
        let read = roxmltree::Document::parse(&drawing).unwrap_or_else(|error| panic!("{error}: {drawing}"));
        for node in read.descendants().filter(roxmltree::Node::is_element) {
            assert_eq!(node.tag_name().namespace(), Some("http://www.w3.org/2000/svg"));
            let name = node.tag_name().name();
            assert!(
                ["svg", "style", "g", "rect", "path", "polygon", "circle", "text", "tspan", "title"].contains(&name),
                "{name}"
            );
        }
    }
}
