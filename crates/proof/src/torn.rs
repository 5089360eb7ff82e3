//! Pages torn as by careless hands: tags put in, stretches lost, stretches doubled.

use fastrand::Rng;

/// More of a page is not looked at: what goes wrong does so near the place that was torn.
const LONGEST: usize = 12_000;

/// What is put in: tags of all kinds, and what browsers read in ways of its own.
const PIECES: [&str; 96] = [
    "<",
    ">",
    "</",
    "<!--",
    "-->",
    "\"",
    "'",
    "&",
    "&#",
    "&#x110000;",
    "&ngE;",
    "\r",
    "\r\n",
    "\0",
    "<![CDATA[",
    "<script>",
    "</script>",
    "<style>",
    "</style>",
    "<title>",
    "<textarea>",
    "</textarea>",
    "<plaintext>",
    "<iframe>",
    "</iframe>",
    "<noscript>",
    "<xmp>",
    "<listing>",
    "<svg>",
    "</svg>",
    "<math>",
    "<mi>",
    "<foreignObject>",
    "<template>",
    "</template>",
    "<table>",
    "</table>",
    "<tr>",
    "</tr>",
    "<td>",
    "</td>",
    "<tbody>",
    "<caption>",
    "<html>",
    "</html>",
    "<head>",
    "</head>",
    "<body>",
    "</body>",
    "<frameset>",
    "<a href=/x>",
    "<a>",
    "</a>",
    "<b>",
    "</b>",
    "<i>",
    "</i>",
    "<em>",
    "</em>",
    "<font color=red>",
    "</font>",
    "<nobr>",
    "<code>",
    "</code>",
    "<span>",
    "</span>",
    "<p>",
    "</p>",
    "<div>",
    "</div>",
    "<center>",
    "<h1>",
    "</h1>",
    "<pre>",
    "</pre>",
    "<li>",
    "</ul>",
    "<dl><dt>",
    "<dd>",
    "<main>",
    "<details>",
    "<summary>",
    "<form>",
    "</form>",
    "<button>",
    "</button>",
    "<select>",
    "</select>",
    "<option>",
    "<object>",
    "<marquee>",
    "<ruby><rt>",
    "<img src=x alt=moon>",
    "<input>",
    "<hr>",
    "<br>",
];

/// The same for Markdown.
const MARKDOWN: [&str; 40] = [
    "[",
    "]",
    "(",
    ")",
    "](",
    "[x]: /x\n",
    "[x]",
    "![",
    "*",
    "**",
    "_",
    "~~",
    "`",
    "``",
    "```\n",
    "~~~\n",
    "# ",
    "> ",
    "- ",
    "1. ",
    "    ",
    "\t",
    "\n",
    "\n\n",
    "\r\n",
    "  \n",
    "\\",
    "|",
    "|a|b|\n|-|-|\n",
    "---\n",
    "===\n",
    "<",
    "<https://x.example>",
    "https://x.example ",
    "&amp;",
    "<a href=/x>",
    "</a>",
    "<div>\n",
    "<!--",
    "[^1]",
];

/// A page as it is after some accidents, none at times.
pub fn torn(page: &str, random: &mut Rng) -> String {
    torn_with(page, &PIECES, random)
}

/// The same for Markdown.
pub fn torn_markdown(page: &str, random: &mut Rng) -> String {
    torn_with(page, &MARKDOWN, random)
}

fn torn_with(page: &str, pieces: &[&str], random: &mut Rng) -> String {
    let mut page = page[..page.floor_char_boundary(LONGEST)].to_owned();
    for _ in 0..random.choice([0, 1, 3, 8, 25]).unwrap_or_default() {
        let at = place(&page, random);
        match random.u8(0..4) {
            0 | 1 => page.insert_str(at, random.choice(pieces.iter().copied()).unwrap_or_default()),
            2 => {
                let lost = random.choice([1, 6, 150]).unwrap_or_default();
                page.replace_range(at..page.floor_char_boundary(at + lost), "");
            }
            _ => {
                let start = place(&page, random);
                let doubled = random.choice([10, 80, 600]).unwrap_or_default();
                let piece = page[start..page.floor_char_boundary(start + doubled)].to_owned();
                page.insert_str(at, &piece);
            }
        }
    }
    page
}

fn place(page: &str, random: &mut Rng) -> usize {
    page.floor_char_boundary(random.usize(0..=page.len()))
}
