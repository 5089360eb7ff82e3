//! Which elements end which others that stand open, as the HTML standard says.

use super::elements::{Element, SCOPE};

/// See [`Element::start_meets`].
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Meeting {
    Closes,
    Passes,
    Stops,
}

impl Element {
    /// Whether the end tag of `self` does not reach an element of its name beyond `open`.
    pub const fn ends_not_beyond(self, open: Self) -> bool {
        match self {
            Self::Li => open.is(SCOPE) || matches!(open, Self::Ol | Self::Ul),
            Self::P => open.is(SCOPE) || matches!(open, Self::Button),
            Self::Td | Self::Th | Self::Tr | Self::Tbody | Self::Thead | Self::Tfoot | Self::Table | Self::Caption => {
                matches!(open, Self::Html | Self::Template)
                    || (matches!(open, Self::Table) && !matches!(self, Self::Table))
            }
            _ if self.is_special() || self.is_formatting() => open.is(SCOPE),
            // Any other end tag.
            _ => open.is_special(),
        }
    }

    /// What the start of `self` does to an open element, looked at from the innermost outwards.
    pub const fn start_meets(self, open: Self) -> Meeting {
        match (self, open) {
            (Self::Li, Self::Li) | (Self::Dt | Self::Dd, Self::Dt | Self::Dd) => Meeting::Closes,
            (Self::Li | Self::Dt | Self::Dd, _)
                if open.is_special() && !matches!(open, Self::Address | Self::Div | Self::P) =>
            {
                Meeting::Stops
            }
            (
                Self::Td | Self::Th | Self::Tr | Self::Tbody | Self::Thead | Self::Tfoot,
                Self::Table | Self::Html | Self::Template,
            ) => Meeting::Stops,
            (Self::Td | Self::Th, Self::Td | Self::Th | Self::Caption)
            | (Self::Tr, Self::Tr | Self::Td | Self::Th | Self::Caption)
            | (
                Self::Tbody | Self::Thead | Self::Tfoot,
                Self::Tbody | Self::Thead | Self::Tfoot | Self::Tr | Self::Td | Self::Th | Self::Caption,
            ) => Meeting::Closes,
            (Self::Td | Self::Th | Self::Tr | Self::Tbody | Self::Thead | Self::Tfoot, _) => Meeting::Passes,
            (Self::Li | Self::Dt | Self::Dd, _) => Meeting::Passes,
            (Self::Option | Self::Optgroup, Self::Option) | (Self::Optgroup, Self::Optgroup) => Meeting::Closes,
            (Self::Button, Self::Button) => Meeting::Closes,
            (Self::Button, _) if open.is(SCOPE) => Meeting::Stops,
            (Self::Button, _) => Meeting::Passes,
            _ if self.is_heading() && open.is_heading() => Meeting::Closes,
            _ => Meeting::Stops,
        }
    }

    /// Whether its start ends SVG and MathML around it.
    pub const fn breaks_out_of_foreign(self) -> bool {
        matches!(
            self,
            Self::B
                | Self::Big
                | Self::Blockquote
                | Self::Body
                | Self::Br
                | Self::Center
                | Self::Code
                | Self::Dd
                | Self::Div
                | Self::Dl
                | Self::Dt
                | Self::Em
                | Self::Embed
                | Self::H1
                | Self::H2
                | Self::H3
                | Self::H4
                | Self::H5
                | Self::H6
                | Self::Head
                | Self::Hr
                | Self::I
                | Self::Img
                | Self::Li
                | Self::Listing
                | Self::Menu
                | Self::Meta
                | Self::Nobr
                | Self::Ol
                | Self::P
                | Self::Pre
                | Self::Ruby
                | Self::S
                | Self::Small
                | Self::Span
                | Self::Strong
                | Self::Strike
                | Self::Sub
                | Self::Sup
                | Self::Table
                | Self::Tt
                | Self::U
                | Self::Ul
                | Self::Var
        )
    }

    /// Whether the search for an open `p` that a start tag closes ends here.
    pub const fn hides_p(self) -> bool {
        self.is(SCOPE) || matches!(self, Self::Button)
    }
}
