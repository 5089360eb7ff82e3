//! Regions that only the whole of a box or of a list tells.

use super::Reader;
use crate::document::lists::List;
use crate::document::region::Region;

impl Reader<'_> {
    /// A box that is named as an aside and is mostly text, as a note beside the text of a manual, belongs to the content; one
    /// of links leads to other pages. O(what stands in boxes + boxes × log n).
    pub(super) fn judge_boxes(&mut self) {
        for span in std::mem::take(&mut self.boxes) {
            let first = self.blocks.partition_point(|block| block.text.start < span.start);
            let end = self.blocks.partition_point(|block| block.text.start < span.end);
            let blocks = self.blocks.get_mut(first..end).unwrap_or_default();
            let first = self.links.partition_point(|link| link.text.start < span.start);
            let end = self.links.partition_point(|link| link.text.start < span.end);
            let links = self.links.get_mut(first..end).unwrap_or_default();
            let text: usize = blocks.iter().map(|block| block.text.len()).sum();
            let linked: usize = links.iter().map(|link| link.text.len()).sum();
            if linked * 2 < text {
                let first = self.pictures.partition_point(|picture| picture.text_at < span.start);
                let end = self.pictures.partition_point(|picture| picture.text_at < span.end);
                let pictures = self.pictures.get_mut(first..end).unwrap_or_default().iter_mut();
                let regions = blocks.iter_mut().map(|block| &mut block.region);
                let regions = regions.chain(links.iter_mut().map(|link| &mut link.region));
                let regions = regions.chain(pictures.map(|picture| &mut picture.region));
                regions.filter(|region| **region == Region::Aside).for_each(|region| *region = Region::Content);
            }
        }
    }

    /// Regions that only a whole list tells.
    pub(super) fn judge_lists(&mut self) {
        let regions: Vec<_> = self.lists.iter().map(List::region).collect();
        let of = |list: &Option<u32>| list.and_then(|list| regions.get(list as usize).copied().flatten());
        for (block, list) in self.blocks.iter_mut().zip(&self.block_lists) {
            block.region = of(list).unwrap_or(block.region);
        }
        for (link, list) in self.links.iter_mut().zip(&self.link_lists) {
            link.region = of(list).unwrap_or(link.region);
        }
    }
}
