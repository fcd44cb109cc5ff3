package dachshund.engine.journal;

import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.file.AccessDeniedException;
import java.nio.file.Files;
import java.nio.file.OpenOption;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.List;
import java.util.stream.Stream;

/** What keeps the files of a journal: the disk of this machine, or in a simulation one that forgets what was not forced. */
public interface Disk {

    /** The one of this machine. */
    Disk OF_THE_MACHINE = new Disk() {
        @Override
        public FileChannel open(Path file, OpenOption... how) throws IOException {
            return FileChannel.open(file, how);
        }

        @Override
        public void forceFolder(Path folder) throws IOException {
            try (FileChannel directory = FileChannel.open(folder, StandardOpenOption.READ)) {
                directory.force(true);
            }
        }

        @Override
        public void remove(Path file) throws IOException {
            Files.deleteIfExists(file);
        }

        @Override
        public List<Path> in(Path folder) throws IOException {
            if (!Files.isDirectory(folder)) {
                return List.of();
            }
            try (Stream<Path> all = Files.list(folder)) {
                return all.sorted().toList();
            }
        }

        @Override
        public void makeFolder(Path folder) throws IOException {
            Path absolute = folder.toAbsolutePath();
            if (absolute.getParent() == null) {
                return;
            }
            if (!Files.isDirectory(absolute)) {
                makeFolder(absolute.getParent());
                Files.createDirectories(absolute);
            }
            try {
                // Also of one that is there: whoever made it may have been killed before this.
                forceFolder(absolute.getParent());
            } catch (AccessDeniedException notOurs) {
                // A folder above ours that we may not read was there before us.
            }
        }

        @Override
        public long room(Path folder) {
            return folder.toFile().getUsableSpace();
        }
    };

    FileChannel open(Path file, OpenOption... how) throws IOException;

    /** Which files are in the folder outlives a loss of power when this returns. */
    void forceFolder(Path folder) throws IOException;

    /** A file, or an empty folder. */
    void remove(Path file) throws IOException;

    /** Bytes that may still be written; 0 where there are none, or nobody knows. */
    long room(Path folder);

    /** Files and folders in a folder, by name; none where it is not there. */
    List<Path> in(Path folder) throws IOException;

    /** Makes a folder and those above it that are missing; they outlive a loss of power when this returns. */
    void makeFolder(Path folder) throws IOException;
}
