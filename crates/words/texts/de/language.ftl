# Die Sprache selbst.

language-name = Deutsch
language-decimal-sign = ,
