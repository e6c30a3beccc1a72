# The language itself.

language-name = English
language-decimal-sign = .
