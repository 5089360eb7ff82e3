//! Looking at a site before it is added: what would be read, or what is wrong with what was typed.

mod folder;
pub mod interface;
mod looked;
mod sent;
mod web;

use std::path::Path;

use actix_web::post;
use actix_web::web::{Data, Json};
use serde::Deserialize;
use strelm_store::site;
use utoipa::ToSchema;
use uuid::Uuid;

pub use self::folder::typed_folder;
use self::folder::{look_at_folder, name_of};
pub use self::interface::{check_interface, checked_endpoint};
use self::looked::Look;
pub use self::looked::{FieldProblem, typed_address};
use self::sent::look_at_list;
pub use self::sent::{sent_folder, sent_list};
use self::web::look_at_web;
use crate::api::uploads::send::Columns;
use crate::api::{ApiError, Problem, State};

/// Where a site is to be read from.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum SourceWish {
    Web {
        /// As typed; a missing https:// is added.
        address: String,
        micropub: Option<String>,
        token: Option<String>,
    },
    Folder {
        path: String,
        /// Where the folder is published, if it is.
        address: Option<String>,
        /// Whether releases may change its files; they may where nothing is said.
        writes: Option<bool>,
    },
    /// An archive of pages that was sent.
    Archive {
        upload: Uuid,
        /// Where its pages are published, if they are.
        address: Option<String>,
    },
    /// A list of addresses that was sent.
    List {
        upload: Uuid,
        columns: Columns,
        /// The entry page, where it is not the first page of the host.
        address: Option<String>,
    },
}

/// Looks at a place before it is added as a site. O(what the place shows at its entry).
#[utoipa::path(operation_id = "sites_look", request_body = SourceWish, responses((status = 200, body = Look), (status = 500, body = Problem)))]
#[post("/sites/look")]
pub async fn look(state: Data<State>, wish: Json<SourceWish>) -> Result<Json<Look>, ApiError> {
    let looked = match wish.into_inner() {
        // Whoever types has not said yet that the token may go out.
        SourceWish::Web { address, micropub, token: _ } => look_at_web(&state, &address, micropub).await,
        SourceWish::Folder { path, address, writes } => match typed_folder(&state, &path, address.as_deref()) {
            Ok((folder, entry)) => {
                look_at_folder(folder, entry, name_of(Path::new(path.trim())), writes.unwrap_or(true)).await
            }
            Err(problem) => Err(problem),
        },
        SourceWish::Archive { upload, address } => match sent_folder(&state, upload, address.as_deref()) {
            Ok((path, folder, entry)) => look_at_folder(folder, entry, name_of(&path), true).await,
            Err(problem) => Err(problem),
        },
        SourceWish::List { upload, columns, address } => {
            look_at_list(&state, upload, columns, address.as_deref()).await
        }
    };
    let look = match looked {
        Ok(look) => look,
        Err(problem) => Look {
            entry: String::new(),
            name: None,
            says: Vec::new(),
            micropub: None,
            start_at: None,
            problem: Some(problem),
            known_as: None,
        },
    };
    let known = site::all(&state.pool).await?;
    let known_as = known.into_iter().find(|site| site.entry.as_str() == look.entry).map(|site| site.id.0);
    Ok(Json(Look { known_as, ..look }))
}
