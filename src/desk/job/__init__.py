"""One document made definite: a layout resolved into a machine, its places, its edits, what differs."""
