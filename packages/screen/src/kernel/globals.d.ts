/** What AssemblyScript calls a 32-bit integer: kernel files are compiled by both compilers. */
type i32 = number;
type bool = boolean;
