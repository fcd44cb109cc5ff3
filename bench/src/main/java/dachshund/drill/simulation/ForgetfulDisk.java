package dachshund.drill.simulation;

import dachshund.engine.journal.Disk;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.NoSuchFileException;
import java.nio.file.OpenOption;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;

/**
 * A disk that keeps no more than it must. At a loss of power each write that was not forced is there, gone, or there in some
 * of its sectors; a file that was begun or removed without forcing its folder is there or not. Writing and forcing may fail,
 * and what a failed force left behind is believed to be clean, as Linux does. (POSIX.1-2017, fsync and write, for what is
 * promised; that a failed fsync drops its pages is common practice of Linux file systems, no source.)
 */
final class ForgetfulDisk implements Disk {

    private static final int SECTOR = 512;

    private final World world;
    private Map<Path, Content> files = new TreeMap<>();
    private Map<Path, Content> forcedFiles = new TreeMap<>();
    private Set<Path> folders = new HashSet<>();
    private Set<Path> forcedFolders = new HashSet<>();
    /** Why nothing can be written; empty where it can. */
    String failing = "";
    /** Bytes that are said to be left. */
    long room = 1L << 40;

    long forces;

    ForgetfulDisk(World world) {
        this.world = world;
    }

    /** A write, or a cut where there are no bytes. */
    private record Change(long at, byte[] bytes) {}

    /** What is in a file, and what of it would be there after a loss of power. */
    private static final class Content {

        private byte[] bytes = new byte[0];
        private byte[] forced = new byte[0];
        private final List<Change> notForced = new ArrayList<>();

        private static byte[] with(byte[] bytes, Change change) {
            if (change.bytes() == null) {
                return Arrays.copyOf(bytes, (int) Math.min(bytes.length, change.at()));
            }
            int end = (int) change.at() + change.bytes().length;
            byte[] next = end > bytes.length ? Arrays.copyOf(bytes, end) : bytes.clone();
            System.arraycopy(change.bytes(), 0, next, (int) change.at(), change.bytes().length);
            return next;
        }

        private void change(Change change) {
            bytes = with(bytes, change);
            notForced.add(change);
        }

        private void force() {
            for (Change change : notForced) {
                forced = with(forced, change);
            }
            notForced.clear();
        }
    }

    @Override
    public FileChannel open(Path file, OpenOption... how) throws IOException {
        world.moment();
        Content content = files.get(file);
        if (content == null) {
            if (!List.of(how).contains(StandardOpenOption.CREATE)) {
                throw new NoSuchFileException(file.toString());
            }
            if (!folders.contains(file.getParent())) {
                throw new NoSuchFileException(file.getParent().toString());
            }
            fails();
            content = new Content();
            files.put(file, content);
        }
        return new Channel(content);
    }

    @Override
    public void forceFolder(Path folder) throws IOException {
        world.moment();
        fails();
        forcedFiles.keySet().removeIf(file -> file.getParent().equals(folder) && !files.containsKey(file));
        files.forEach((file, content) -> {
            if (file.getParent().equals(folder)) {
                forcedFiles.put(file, content);
            }
        });
        forcedFolders.removeIf(each -> folder.equals(each.getParent()) && !folders.contains(each));
        folders.stream().filter(each -> folder.equals(each.getParent())).forEach(forcedFolders::add);
        world.moment();
    }

    @Override
    public void remove(Path path) throws IOException {
        world.moment();
        fails();
        files.remove(path);
        folders.remove(path);
        world.moment();
    }

    @Override
    public List<Path> in(Path folder) {
        world.alive();
        Set<Path> found = new TreeSet<>();
        files.keySet().stream().filter(each -> folder.equals(each.getParent())).forEach(found::add);
        folders.stream().filter(each -> folder.equals(each.getParent())).forEach(found::add);
        return List.copyOf(found);
    }

    @Override
    public void makeFolder(Path folder) throws IOException {
        if (folder.getParent() == null) {
            return;
        }
        if (!folders.contains(folder)) {
            makeFolder(folder.getParent());
            world.moment();
            fails();
            folders.add(folder);
        }
        forceFolder(folder.getParent());
    }

    @Override
    public long room(Path folder) {
        world.alive();
        return room;
    }

    private void fails() throws IOException {
        if (!failing.isEmpty()) {
            throw new IOException(failing);
        }
    }

    /** What was forced is there, anything else perhaps. */
    void losePower() {
        Set<Path> keptFolders = new HashSet<>();
        Set<Path> allFolders = new TreeSet<>(folders);
        allFolders.addAll(forcedFolders);
        for (Path folder : allFolders) { // those above come first
            boolean sure = folders.contains(folder) && forcedFolders.contains(folder);
            boolean above = folder.getParent().getParent() == null || keptFolders.contains(folder.getParent());
            if (above && (sure || world.chance(0.5))) {
                keptFolders.add(folder);
            }
        }
        Map<Path, Content> kept = new TreeMap<>();
        Set<Path> all = new TreeSet<>(files.keySet());
        all.addAll(forcedFiles.keySet());
        for (Path file : all) {
            boolean sure = files.containsKey(file) && forcedFiles.containsKey(file);
            if (!keptFolders.contains(file.getParent()) || !sure && !world.chance(0.5)) {
                continue;
            }
            Content content = files.containsKey(file) ? files.get(file) : forcedFiles.get(file);
            Content after = new Content();
            after.forced = content.forced;
            for (Change change : content.notForced) {
                double luck = world.random.nextDouble();
                if (luck < 0.4) {
                    after.forced = Content.with(after.forced, change);
                } else if (luck < 0.7 && change.bytes() != null) {
                    after.forced = torn(after.forced, change);
                }
            }
            after.bytes = after.forced;
            kept.put(file, after);
        }
        folders = keptFolders;
        forcedFolders = new HashSet<>(keptFolders);
        files = kept;
        forcedFiles = new TreeMap<>(kept);
    }

    /** Some sectors of a write. */
    private byte[] torn(byte[] bytes, Change change) {
        byte[] next = bytes;
        long at = change.at();
        long end = at + change.bytes().length;
        while (at < end) {
            long until = Math.min(end, (at / SECTOR + 1) * SECTOR);
            if (world.chance(0.5)) {
                int from = (int) (at - change.at());
                next = Content.with(
                        next, new Change(at, Arrays.copyOfRange(change.bytes(), from, from + (int) (until - at))));
            }
            at = until;
        }
        return next;
    }

    /** One bit of some file is another one from now on. Whether there was one. */
    boolean flip() {
        List<Map.Entry<Path, Content>> some = files.entrySet().stream()
                .filter(each -> each.getValue().bytes.length > 0)
                .toList();
        if (some.isEmpty()) {
            return false;
        }
        Map.Entry<Path, Content> file = some.get(world.random.nextInt(some.size()));
        Content content = file.getValue();
        int at = world.random.nextInt(content.bytes.length);
        world.tell("a bit is flipped in " + file.getKey() + " at " + at + " of " + content.bytes.length);
        content.bytes = content.bytes.clone();
        content.bytes[at] ^= (byte) (1 << world.random.nextInt(8));
        if (at < content.forced.length) {
            content.forced = content.forced.clone();
            content.forced[at] = content.bytes[at];
        }
        return true;
    }

    /** A copy of all that is in it, as a backup takes it while nothing runs. */
    Runnable copy() {
        Map<Path, byte[]> then = new TreeMap<>();
        files.forEach((file, content) -> then.put(file, content.bytes));
        Set<Path> thenFolders = Set.copyOf(folders);
        return () -> {
            lose();
            folders.addAll(thenFolders);
            forcedFolders.addAll(thenFolders);
            then.forEach((file, bytes) -> {
                Content content = new Content();
                content.bytes = bytes;
                content.forced = bytes;
                files.put(file, content);
                forcedFiles.put(file, content);
            });
        };
    }

    /** Everything in it is gone. */
    void lose() {
        files.clear();
        forcedFiles.clear();
        folders.clear();
        forcedFolders.clear();
    }

    private final class Channel extends FileChannel {

        private final Content content;

        private Channel(Content content) {
            this.content = content;
        }

        @Override
        public int read(ByteBuffer into, long position) {
            world.alive();
            if (position >= content.bytes.length) {
                return -1;
            }
            int count = (int) Math.min(into.remaining(), content.bytes.length - position);
            into.put(content.bytes, (int) position, count);
            return count;
        }

        @Override
        public int write(ByteBuffer from, long position) throws IOException {
            world.moment();
            if (!failing.isEmpty() && from.remaining() > 1 && world.chance(0.5)) {
                put(from, position, from.remaining() / 2); // what still had room
            }
            fails();
            int count = world.chance(0.9) ? from.remaining() : Math.max(1, from.remaining() / 2);
            put(from, position, count);
            world.moment();
            return count;
        }

        private void put(ByteBuffer from, long position, int count) {
            byte[] bytes = new byte[count];
            from.get(bytes);
            content.change(new Change(position, bytes));
        }

        @Override
        public long size() {
            world.alive();
            return content.bytes.length;
        }

        @Override
        public FileChannel truncate(long size) throws IOException {
            world.moment();
            fails();
            if (size < content.bytes.length) {
                content.change(new Change(size, null));
            }
            return this;
        }

        @Override
        public void force(boolean metaData) throws IOException {
            world.moment();
            forces++;
            if (!failing.isEmpty()) {
                if (world.chance(0.5)) {
                    content.notForced.clear(); // believed to be clean, and gone at a loss of power
                }
                fails();
            }
            content.force();
            world.moment();
        }

        @Override
        protected void implCloseChannel() {
            // nothing is open
        }

        @Override
        public int read(ByteBuffer into) {
            throw new UnsupportedOperationException();
        }

        @Override
        public long read(ByteBuffer[] into, int offset, int length) {
            throw new UnsupportedOperationException();
        }

        @Override
        public int write(ByteBuffer from) {
            throw new UnsupportedOperationException();
        }

        @Override
        public long write(ByteBuffer[] from, int offset, int length) {
            throw new UnsupportedOperationException();
        }

        @Override
        public long position() {
            throw new UnsupportedOperationException();
        }

        @Override
        public FileChannel position(long next) {
            throw new UnsupportedOperationException();
        }

        @Override
        public long transferTo(long position, long count, java.nio.channels.WritableByteChannel target) {
            throw new UnsupportedOperationException();
        }

        @Override
        public long transferFrom(java.nio.channels.ReadableByteChannel from, long position, long count) {
            throw new UnsupportedOperationException();
        }

        @Override
        public java.nio.MappedByteBuffer map(MapMode mode, long position, long size) {
            throw new UnsupportedOperationException();
        }

        @Override
        public java.nio.channels.FileLock lock(long position, long size, boolean shared) {
            throw new UnsupportedOperationException();
        }

        @Override
        public java.nio.channels.FileLock tryLock(long position, long size, boolean shared) {
            throw new UnsupportedOperationException();
        }
    }
}
