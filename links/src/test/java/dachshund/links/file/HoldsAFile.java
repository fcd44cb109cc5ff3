package dachshund.links.file;

import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;

/** Another program: locks the file of its argument, says so, and lets go when its input ends. */
final class HoldsAFile {

    private HoldsAFile() {}

    public static void main(String[] arguments) throws IOException {
        try (FileChannel file =
                        FileChannel.open(Path.of(arguments[0]), StandardOpenOption.READ, StandardOpenOption.WRITE);
                FileLock lock = file.lock()) {
            System.out.println("held");
            while (System.in.read() >= 0) {
                // until it is told to let go
            }
        }
    }
}
