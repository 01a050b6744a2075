"""The sentences, and the working of each figure by pencil."""
