pub mod places;
