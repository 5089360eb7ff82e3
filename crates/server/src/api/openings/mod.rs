pub mod bring_back;
pub mod pass;
pub mod take;
