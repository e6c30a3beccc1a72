//! Firmware tables put together by hand, field by field, after DMTF DSP0134: types 4, 7, 16, 17, 19 and 20.

/// One structure in the making.
#[derive(Clone, Debug)]
pub struct Structure {
    kind: u8,
    handle: u16,
    fields: Vec<u8>,
    strings: Vec<String>,
}

impl Structure {
    /// An empty structure.
    pub fn new(kind: u8, handle: u16) -> Self {
        Self { kind, handle, fields: Vec::new(), strings: Vec::new() }
    }

    /// Appends bytes.
    #[must_use]
    pub fn bytes(mut self, bytes: &[u8]) -> Self {
        self.fields.extend(bytes);
        self
    }

    /// Appends two bytes.
    #[must_use]
    pub fn word(self, word: u16) -> Self {
        self.bytes(&word.to_le_bytes())
    }

    /// Appends four bytes.
    #[must_use]
    pub fn dword(self, dword: u32) -> Self {
        self.bytes(&dword.to_le_bytes())
    }

    /// Appends eight bytes.
    #[must_use]
    pub fn qword(self, qword: u64) -> Self {
        self.bytes(&qword.to_le_bytes())
    }

    /// Appends the number of a string, which is put behind the structure.
    #[must_use]
    pub fn string(mut self, text: &str) -> Self {
        self.strings.push(text.to_owned());
        let number = self.strings.len() as u8;
        self.bytes(&[number])
    }

    /// As it lies in memory.
    pub fn finished(&self) -> Vec<u8> {
        let mut bytes = vec![self.kind, self.fields.len() as u8 + 4];
        bytes.extend(self.handle.to_le_bytes());
        bytes.extend(&self.fields);
        for string in &self.strings {
            bytes.extend(string.bytes());
            bytes.push(0);
        }
        bytes.extend(if self.strings.is_empty() { [0, 0].as_slice() } else { [0].as_slice() });
        bytes
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_structure_as_it_lies_in_memory() {
        let made = Structure::new(2, 0x0102).string("a").word(0x0304).string("bc").finished();
        assert_eq!(made, [2, 8, 2, 1, 1, 4, 3, 2, b'a', 0, b'b', b'c', 0, 0]);
        assert_eq!(Structure::new(127, 0).finished(), [127, 4, 0, 0, 0, 0]);
    }
}
