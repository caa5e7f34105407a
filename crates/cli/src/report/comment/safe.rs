//! Words of others in Markdown: whatever they hold, they stay words. They make no headings, links or tables, call nobody by name and open
//! no issue.

use crate::report::pieces;

/// A text without any form.
pub fn plain(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut letters = text.chars().peekable();
    while let Some(letter) = letters.next() {
        match letter {
            '\n' | '\r' => out.push(' '),
            // A forge looks for names and numbers after these in what is shown, so that no sign before them helps.
            '@' | '#' => out.push_str(&format!("{letter}<!-- -->")),
            // The beginnings of addresses, which forges make links of by themselves.
            ':' if letters.peek() == Some(&'/') => out.push_str("\\:"),
            '.' if out.ends_with("www") => out.push_str("\\."),
            '\\' | '`' | '*' | '_' | '[' | ']' | '<' | '>' | '|' | '~' | '&' | '$' | '!' => out.extend(['\\', letter]),
            // At the beginning of a line these make lists.
            '-' | '+' | '=' if out.is_empty() => out.extend(['\\', letter]),
            letter => out.push(letter),
        }
    }
    out
}

/// A sentence of ours, with the words of others as code.
pub fn said(text: &str) -> String {
    pieces(text).into_iter().map(|(is_code, piece)| if is_code { code(piece) } else { plain(piece) }).collect()
}

/// Words as code; not within a table, where a bar would end the cell even here.
pub fn code(text: &str) -> String {
    let text = text.replace(['\n', '\r'], " ");
    let fence = "`".repeat(longest_run(&text) + 1);
    let space = if text.starts_with('`') || text.ends_with('`') || text.is_empty() { " " } else { "" };
    format!("{fence}{space}{text}{space}{fence}")
}

/// Lines as code of a language.
pub fn fenced(language: &str, text: &str) -> String {
    let fence = "`".repeat((longest_run(text) + 1).max(3));
    format!("{fence}{language}\n{text}\n{fence}\n\n")
}

/// The title of what is folded away, which is read as HTML.
pub fn folded_title(text: &str) -> String {
    // Nothing in it may be taken for Markdown either, whoever reads it.
    let letter = |letter: char| match letter {
        '@' => "@<!-- -->".to_owned(),
        '\n' | '\r' => " ".to_owned(),
        '&' | '<' | '>' | '#' | '*' | '_' | '[' | ']' | '!' | '~' | '`' | '|' | '/' | '"' => format!("&#{};", u32::from(letter)),
        letter => letter.to_string(),
    };
    let escaped = |part: &str| part.chars().map(letter).collect::<String>();
    let piece =
        |(is_code, piece): (bool, &str)| if is_code { format!("<code>{}</code>", escaped(piece)) } else { escaped(piece) };
    pieces(text).into_iter().map(piece).collect()
}

fn longest_run(text: &str) -> usize {
    text.split(|letter| letter != '`').map(str::len).max().unwrap_or(0)
}

#[cfg(test)]
mod tests {
    use super::{code, fenced, folded_title, plain, said};

    #[test]
    fn words_of_others_stay_words() {
        assert_eq!(plain("*a* <b> [c](d) |e| @pier #7"), "\\*a\\* \\<b\\> \\[c\\](d) \\|e\\| @<!-- -->pier #<!-- -->7");
        assert_eq!(plain("# no heading\n- no list"), "#<!-- --> no heading - no list");
        assert_eq!(plain("- no list"), "\\- no list");
        assert_eq!(plain("https://quay.example www.quay.example"), "https\\://quay.example www\\.quay.example");
    }

    #[test]
    fn code_ends_where_it_should() {
        assert_eq!(code("a`b``c"), "```a`b``c```");
        assert_eq!(code("`"), "`` ` ``");
        assert_eq!(code("a|b\nc"), "`a|b c`");
        assert_eq!(fenced("diff", "-```\n+x"), "````diff\n-```\n+x\n````\n\n");
    }

    #[test]
    fn a_sentence_keeps_its_code() {
        assert_eq!(said("`mas_ter` is no_branch"), "`mas_ter` is no\\_branch");
        // With one sign too many, nobody knows which are ours.
        assert_eq!(said("`a` b` c"), "\\`a\\` b\\` c");
        assert_eq!(folded_title("`<b>` & @pier"), "<code>&#60;b&#62;</code> &#38; @<!-- -->pier");
    }
}
