//! What was found out about a site before it is added, or what is wrong with what was typed.

use serde::Serialize;
use strelm_core::site::Address;
use utoipa::ToSchema;

/// What was found at a place that may become a site.
#[derive(Debug, Serialize, ToSchema)]
pub struct Look {
    /// The address of the entry page as it will be kept.
    pub entry: String,
    /// What the site calls itself.
    pub name: Option<String>,
    /// What would be read, in plain words, one sentence after the other.
    pub says: Vec<String>,
    /// The editing interface that the site names.
    pub micropub: Option<String>,
    /// A page to start from instead, where the entry page holds nothing of its own.
    pub start_at: Option<String>,
    /// What is wrong with one of the fields; nothing can be added then.
    pub problem: Option<FieldProblem>,
    /// The site that has this entry page already.
    pub known_as: Option<i32>,
}

/// What is wrong with what was typed into a field.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FieldProblem {
    pub field: Field,
    pub message: String,
}

/// The fields in which a place is described.
#[derive(Debug, Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Field {
    Address,
    Micropub,
    Token,
    Folder,
    /// The file that was sent.
    Upload,
    /// What the columns of a list are.
    Columns,
}

/// Something wrong with a field.
pub fn problem(field: Field, message: impl Into<String>) -> FieldProblem {
    FieldProblem { field, message: message.into() }
}

/// An address as people type it.
pub fn typed_address(text: &str) -> Result<Address, FieldProblem> {
    let text = text.trim();
    let wrong = |message: &str| problem(Field::Address, message);
    if text.is_empty() {
        return Err(wrong("Type the address of the page on which readers start, such as www.example.org."));
    }
    if text.contains(char::is_whitespace) {
        return Err(wrong("An address has no spaces in it."));
    }
    if text.contains('@') && !text.contains('/') {
        return Err(wrong("This looks like a mail address. Type the address of a web site."));
    }
    let with_scheme = if text.contains("://") { text.to_owned() } else { format!("https://{text}") };
    let address = Address::parse(&with_scheme).map_err(|error| problem(Field::Address, format!("{error}.")))?;
    let host = address.host();
    if !host.contains('.') && !host.contains(':') && host != "localhost" {
        return Err(problem(
            Field::Address,
            format!("“{host}” is not the whole name of a host: something like .org is missing."),
        ));
    }
    Ok(address)
}
