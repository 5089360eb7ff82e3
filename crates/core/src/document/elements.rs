//! What the HTML standard says about elements, as far as reading text needs it.

/// Elements without content or end tag.
pub fn is_void(name: &str) -> bool {
    matches!(
        name,
        "area"
            | "base"
            | "br"
            | "col"
            | "embed"
            | "hr"
            | "img"
            | "input"
            | "link"
            | "meta"
            | "source"
            | "track"
            | "wbr"
    )
}

/// Elements that begin and end a block of text.
pub fn is_block(name: &str) -> bool {
    matches!(
        name,
        "address"
            | "article"
            | "aside"
            | "blockquote"
            | "body"
            | "caption"
            | "center"
            | "dd"
            | "details"
            | "dialog"
            | "dir"
            | "div"
            | "dl"
            | "dt"
            | "fieldset"
            | "figcaption"
            | "figure"
            | "footer"
            | "form"
            | "h1"
            | "h2"
            | "h3"
            | "h4"
            | "h5"
            | "h6"
            | "head"
            | "header"
            | "hgroup"
            | "hr"
            | "html"
            | "legend"
            | "li"
            | "main"
            | "menu"
            | "nav"
            | "ol"
            | "option"
            | "p"
            | "pre"
            | "search"
            | "section"
            | "select"
            | "summary"
            | "table"
            | "tbody"
            | "td"
            | "tfoot"
            | "th"
            | "thead"
            | "title"
            | "tr"
            | "ul"
    )
}

/// Elements whose text a reader does not see on the page.
pub fn is_hidden(name: &str) -> bool {
    matches!(
        name,
        "audio"
            | "canvas"
            | "datalist"
            | "head"
            | "iframe"
            | "math"
            | "noembed"
            | "noframes"
            | "noscript"
            | "object"
            | "script"
            | "style"
            | "svg"
            | "template"
            | "textarea"
            | "title"
            | "video"
            | "xmp"
    )
}

/// Elements whose text never takes a link of ours.
pub fn refuses_links(name: &str) -> bool {
    matches!(name, "button" | "code" | "kbd" | "label" | "legend" | "option" | "pre" | "samp" | "select" | "tt" | "var")
}

/// Whether the start of `opening` closes an open `open`, whose end tag may be left out.
pub fn closes(opening: &str, open: &str) -> bool {
    match open {
        "p" => is_block(opening),
        "li" => opening == "li",
        "dt" | "dd" => matches!(opening, "dt" | "dd"),
        "td" | "th" => matches!(opening, "td" | "th" | "tr" | "tbody" | "thead" | "tfoot"),
        "tr" => matches!(opening, "tr" | "tbody" | "thead" | "tfoot"),
        "thead" | "tbody" | "tfoot" => matches!(opening, "tbody" | "thead" | "tfoot"),
        "option" => matches!(opening, "option" | "optgroup"),
        "head" => opening == "body",
        _ => false,
    }
}

/// Elements beyond which an implied end does not reach.
pub fn is_scope(name: &str) -> bool {
    matches!(
        name,
        "article"
            | "aside"
            | "blockquote"
            | "body"
            | "button"
            | "details"
            | "div"
            | "dl"
            | "figure"
            | "footer"
            | "form"
            | "header"
            | "html"
            | "main"
            | "nav"
            | "object"
            | "ol"
            | "section"
            | "table"
            | "template"
            | "ul"
    )
}

/// Formatting elements that a browser opens again after markup that closed them out of turn. Their index counts them.
pub fn formatting_index(name: &str) -> Option<usize> {
    FORMATTING.iter().position(|formatting| *formatting == name)
}

pub const FORMATTING: [&str; 14] =
    ["a", "b", "big", "code", "em", "font", "i", "nobr", "s", "small", "strike", "strong", "tt", "u"];
