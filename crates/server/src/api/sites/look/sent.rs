//! What an editor sent: a list of addresses, or an archive of pages.

use std::path::{Path, PathBuf};

use strelm_core::site::Address;
use strelm_sources::captured::Plan;
use strelm_sources::folder::Folder;
use uuid::Uuid;

use super::folder::name_of;
use super::looked::{Field, FieldProblem, Look, problem, typed_address};
use super::web::look_at_web;
use crate::api::State;
use crate::api::sites::listed::Listed;
use crate::api::uploads::send::Columns;
use crate::new_site::unpublished;

/// The list that was sent, and what it tells.
pub fn sent_list(
    state: &State,
    upload: Uuid,
    columns: Columns,
    address: Option<&str>,
) -> Result<(Address, Listed), FieldProblem> {
    let list = state.uploads.list(upload);
    let list = list.map_err(|_| problem(Field::Upload, "The file is no longer here. Send it once more."))?;
    if columns.address.is_none() {
        return Err(problem(Field::Columns, "Say which column holds the addresses."));
    }
    let typed = address.map(str::trim).filter(|address| !address.is_empty()).map(typed_address).transpose()?;
    let listed = Listed::of(&list, columns, typed.as_ref());
    let root = listed.root.clone().ok_or_else(|| {
        let why = "There is no address in this column. Paths such as /about need the address of the site above.";
        problem(Field::Columns, why)
    })?;
    let entry = match typed {
        Some(typed) if typed.same_origin(&root) => typed,
        Some(typed) => {
            let why = format!("The list is of {}, and not of {}.", root.host(), typed.host());
            return Err(problem(Field::Address, why));
        }
        None => root,
    };
    Ok((entry, listed))
}

/// Looks at a list of addresses that was sent.
pub async fn look_at_list(
    state: &State,
    upload: Uuid,
    columns: Columns,
    address: Option<&str>,
) -> Result<Look, FieldProblem> {
    let (entry, listed) = sent_list(state, upload, columns, address)?;
    let looked = look_at_web(state, entry.as_str(), None).await?;
    let names: usize = listed.pages.iter().map(|page| page.names.len()).sum();
    let mut says = vec![format!("{} addresses of {} are listed and will be read.", listed.pages.len(), entry.host())];
    if names > 0 {
        says.push(format!("{names} titles and phrases name them; openings are looked for by these too."));
    }
    if let Some(row) = listed.first_unusable {
        says.push(format!("{} rows have no address and are left out, row {row} first.", listed.unusable));
    }
    if listed.elsewhere > 0 {
        says.push(format!("{} rows are of other sites and are left out.", listed.elsewhere));
    }
    says.extend(looked.says);
    Ok(Look { says, ..looked })
}

/// The folder of an archive that was sent, and the address that its pages get.
pub fn sent_folder(
    state: &State,
    upload: Uuid,
    address: Option<&str>,
) -> Result<(PathBuf, Folder, Address), FieldProblem> {
    let wrong = |message: &str| problem(Field::Upload, message);
    let path = state.uploads.site(upload).ok_or_else(|| wrong("The file is no longer here. Send it once more."))?;
    let real = path.canonicalize().map_err(|_| wrong("The file is no longer here. Send it once more."))?;
    let plan = Plan::of(&real).map_err(|error| wrong(&format!("The file cannot be read any more: {error}.")))?;
    let captured = plan.and_then(|plan| plan.origin);
    let typed = address.map(str::trim).filter(|address| !address.is_empty()).map(typed_address).transpose()?;
    let entry = match (typed, captured) {
        (Some(typed), Some(captured)) if !typed.same_origin(&captured) => {
            let why = format!("The pages are of {}, and not of {}.", captured.host(), typed.host());
            return Err(problem(Field::Address, why));
        }
        (Some(address), _) | (None, Some(address)) => address,
        (None, None) => {
            unpublished(Path::new(&format!("{}-{}", name_of(&real).unwrap_or_default(), &upload.to_string()[..8])))
        }
    };
    let folder = Folder::open(&real, entry.clone()).map_err(|error| problem(Field::Upload, format!("{error}.")))?;
    Ok((real, folder, entry))
}
