// The tests of a program come out of its library.
