package dachshund.links.file;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.LinkOption;
import java.nio.file.Path;

/** The folder for files, which nothing leaves: every path that somebody typed is resolved here, links followed. */
public final class Inside {

    private final Path root;

    /** A path that leads out of the folder for files. The message is a sentence for a person. */
    public static final class Left extends IOException {
        private static final long serialVersionUID = 1;

        Left(String name) {
            super(name + " lies outside the folder for files, which nothing here leaves.");
        }
    }

    public Inside(Path root) {
        this.root = root.toAbsolutePath().normalize();
    }

    /**
     * The path that a text names, by its letters alone.
     *
     * @throws IllegalArgumentException with a sentence, where it is none, or leads out
     */
    public Path named(String text) {
        try {
            Path path = root.resolve(text.strip()).normalize();
            if (path.startsWith(root) && !path.equals(root)) {
                return path;
            }
        } catch (InvalidPathException none) {
            throw new IllegalArgumentException("\"" + text + "\" is no name of a file or folder.", none);
        }
        throw new IllegalArgumentException(text + " lies outside the folder for files, which nothing here leaves.");
    }

    /** @throws Left where the path, with all links on its way followed, leads out of the folder */
    public void check(Path path) throws IOException {
        Path there = path;
        while (!Files.exists(there, LinkOption.NOFOLLOW_LINKS)) {
            if (there.equals(root)) {
                return; // nothing is there yet
            }
            there = there.getParent();
        }
        if (!Files.exists(there) || !there.toRealPath().startsWith(root.toRealPath())) {
            throw new Left(path.getFileName().toString()); // also a link to what is not there
        }
    }
}
