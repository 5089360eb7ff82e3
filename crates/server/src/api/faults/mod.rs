pub mod links;
pub mod places;
