package dachshund.web.plant;

import dachshund.core.source.LinkProblem;
import dachshund.core.source.PlantLink;
import dachshund.core.source.PlantLink.Found;
import dachshund.core.tag.TagInfo;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashSet;
import java.util.List;
import java.util.Set;

/** Everything a source offers, folder after folder and page after page. */
public final class Offers {

    /** More are not walked through at once; the page says so. */
    public static final int MOST = 100_000;

    private Offers() {}

    /** All tags, up to {@link #MOST}; a folder that is reached twice is listed once. */
    public static List<TagInfo> all(PlantLink link) throws LinkProblem {
        List<TagInfo> tags = new ArrayList<>();
        Deque<Found.Folder> open = new ArrayDeque<>();
        Set<String> seen = new HashSet<>();
        take(link, "", "", tags, open);
        while (!open.isEmpty() && tags.size() < MOST) {
            Found.Folder folder = open.removeFirst();
            if (seen.add(folder.address())) {
                take(link, folder.address(), below(folder), tags, open);
            }
        }
        return tags;
    }

    /** The path of what lies in a folder. */
    static String below(Found.Folder folder) {
        return folder.path().isEmpty() ? folder.name() : folder.path() + " / " + folder.name();
    }

    private static void take(PlantLink link, String folder, String path, List<TagInfo> tags, Deque<Found.Folder> open)
            throws LinkProblem {
        String from = "";
        do {
            PlantLink.Page page = link.browse(folder, path, from);
            for (Found each : page.found()) {
                if (each instanceof Found.Folder below) {
                    open.addLast(below);
                } else if (each instanceof Found.Tag tag) {
                    tags.add(tag.info());
                }
            }
            from = page.more();
        } while (!from.isEmpty() && tags.size() < MOST);
    }
}
