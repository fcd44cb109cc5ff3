package dachshund.engine.journal;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentSkipListMap;

/**
 * Room of its own for the entries of one lane that cannot go on, so that they hold up nobody else's space: copied file by
 * file out of the journal before its oldest file goes. Entries keep their positions. Belongs to the writer's thread.
 */
public final class OwnRoom {

    private static final String FOLDER = "apart";
    private static final String NAME = "[A-Za-z0-9-]{1,64}";
    private static final int AT_A_TIME = 4;

    private final Disk disk;
    private final Path folder;
    private final String lane;
    private final ConcurrentSkipListMap<Long, SegmentFile> files = new ConcurrentSkipListMap<>();

    private OwnRoom(Disk disk, Path folder, String lane) {
        this.disk = disk;
        this.folder = folder;
        this.lane = lane;
    }

    /** The lanes of a journal that had room of their own at the last end, by name. */
    public static List<String> lanes(SegmentJournal journal) {
        try {
            return journal.disk().in(journal.folder().resolve(FOLDER)).stream()
                    .map(each -> each.getFileName().toString())
                    .filter(name -> name.matches(NAME))
                    .toList();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /**
     * The room of a lane, with what is in it.
     *
     * @param lane a name of letters, digits and dashes
     */
    public static OwnRoom of(SegmentJournal journal, String lane) {
        if (!lane.matches(NAME)) {
            throw new IllegalArgumentException("Not the name of a lane: " + lane);
        }
        OwnRoom room =
                new OwnRoom(journal.disk(), journal.folder().resolve(FOLDER).resolve(lane), lane);
        try {
            List<Path> all = SegmentFile.in(room.disk, room.folder);
            for (Path path : all) {
                SegmentFile file = SegmentFile.open(room.disk, path);
                if (file.installation().isEmpty()) {
                    file = file.of(journal.installation(), journal.id()); // its head was altered
                }
                if (file.sealed()) {
                    file.force(); // a process may have been killed before it had
                    room.files.put(file.base(), file);
                } else if (path.equals(all.get(all.size() - 1)) && journal.first() <= file.base()) {
                    file.remove(); // it was being copied: the journal still has all of it, and what follows
                } else {
                    takeStock(file);
                    journal.damaged(path.getFileName() + " of " + lane + ": its summary was altered on disk.");
                    room.files.put(file.base(), file);
                }
            }
            if (!room.isEmpty()) {
                room.disk.forceFolder(room.folder);
            }
        } catch (IOException e) {
            throw new UncheckedIOException("The room of lane " + lane + " cannot be opened.", e);
        }
        return room;
    }

    /** Of a file that the journal gave back and whose summary was altered: its entries are there all the same. */
    private static void takeStock(SegmentFile file) throws IOException {
        FrameScanner scanner = file.scanAll(new Frame.Names());
        long length = file.bytes();
        long end = file.base();
        for (Journal.Entry entry = scanner.next(length); entry != null; entry = scanner.next(length)) {
            file.summary().add(entry);
            end = entry.next();
        }
        file.seal(end, scanner.offset());
    }

    /**
     * Copies what finished files of the journal hold of the lane, some files at a time; on disk when this returns.
     *
     * @param from entries before this position are settled
     * @param upTo files that end behind this position are needed there by others
     */
    public void take(SegmentJournal journal, long from, long upTo) {
        int copied = 0;
        for (SegmentFile source : journal.finished(upTo)) {
            boolean has = source.summary()
                    .of(lane)
                    .filter(each -> each.last() >= from)
                    .isPresent();
            if (source.base() < end() || copied == AT_A_TIME || !has && files.isEmpty()) {
                continue;
            }
            try {
                copy(source, from); // also one with nothing for the lane, so that the room reaches as far as its copies
                copied++;
            } catch (IOException e) {
                throw new UncheckedIOException("The rows of a lane could not be given room of their own.", e);
            }
        }
    }

    private void copy(SegmentFile source, long from) throws IOException {
        disk.makeFolder(folder);
        Summary summary = new Summary();
        SegmentFile target =
                SegmentFile.begin(disk, folder, source.base(), source.installation(), source.journal(), summary);
        FrameScanner scanner = source.scan(source.base(), new Frame.Names());
        byte[] name = lane.getBytes(java.nio.charset.StandardCharsets.UTF_8);
        long offset = SegmentFile.HEAD;
        long end = SegmentFile.HEAD + source.end() - source.base();
        for (Journal.Entry entry = scanner.next(end); entry != null; entry = scanner.next(end)) {
            boolean design = entry.kind() == Journal.Kind.DESIGN.letter();
            if (entry.lane().equals(lane) && (design || entry.position() >= from)) {
                byte[] frame = new byte[Frame.size(name, entry.body())];
                Frame.write(frame, 0, entry.position(), entry.kind(), entry.version(), name, entry.nth(), entry.body());
                target.writeAt(frame, frame.length, offset);
                offset += frame.length;
                summary.add(entry);
            }
        }
        target.force(); // before the summary that says they are there
        target.seal(source.end(), offset);
        disk.forceFolder(folder);
        files.put(target.base(), target);
    }

    /** Position behind everything that is in the room; 0 where it is empty. */
    public long end() {
        return files.isEmpty() ? 0 : files.lastEntry().getValue().end();
    }

    /** Running numbers of the lane's first and last entry in it, both 0 where it is empty. */
    public long firstNth() {
        return files.values().stream()
                .flatMap(file -> file.summary().of(lane).stream())
                .mapToLong(Summary.OfLane::firstNth)
                .min()
                .orElse(0);
    }

    public long lastNth() {
        return files.values().stream()
                .flatMap(file -> file.summary().of(lane).stream())
                .mapToLong(Summary.OfLane::lastNth)
                .max()
                .orElse(0);
    }

    public boolean isEmpty() {
        return files.isEmpty();
    }

    public long bytes() {
        return files.values().stream().mapToLong(SegmentFile::bytes).sum();
    }

    /** Entries of the lane from a position on, designs included. */
    public Journal.Reader read(long from) {
        return new RoomReader(from);
    }

    /**
     * From where on entries of a higher running number stand: whole files that end below it are passed over.
     *
     * @param from not before this position
     */
    public long behind(long nth, long from) {
        long at = from;
        for (SegmentFile file : files.values()) {
            if (file.summary().of(lane).filter(own -> own.lastNth() > nth).isPresent()) {
                break;
            }
            at = Math.max(at, file.end());
        }
        return at;
    }

    /** Nothing before the position is needed any more. */
    public void release(long upTo) {
        while (!files.isEmpty() && files.firstEntry().getValue().end() <= upTo) {
            try {
                Map.Entry<Long, SegmentFile> first = files.pollFirstEntry();
                first.getValue().remove();
                if (files.isEmpty()) {
                    disk.remove(folder);
                }
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }
    }

    public void close() {
        for (SegmentFile file : new ArrayList<>(files.values())) {
            try {
                file.close();
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }
    }

    private final class RoomReader implements Journal.Reader {

        private final Frame.Names names = new Frame.Names();
        private long position;
        private SegmentFile in;
        private FrameScanner scanner;

        private RoomReader(long from) {
            position = from;
        }

        @Override
        public long position() {
            return position;
        }

        @Override
        public Journal.Entry next() {
            try {
                while (true) {
                    if (in == null) {
                        in = files.values().stream()
                                .filter(file -> file.end() > position)
                                .findFirst()
                                .orElse(null);
                        if (in == null) {
                            return null;
                        }
                        scanner = in.scanAll(names);
                    }
                    Journal.Entry entry = scanner.next(in.entriesEnd());
                    if (entry == null) {
                        position = in.end();
                        in = null;
                    } else if (entry.nth() == 0 || entry.position() >= position) {
                        position = Math.max(position, entry.next());
                        return entry;
                    }
                }
            } catch (IOException e) {
                throw new UncheckedIOException("The room of lane " + lane + " cannot be read.", e);
            }
        }
    }
}
