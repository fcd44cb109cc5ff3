package dachshund.office.definition;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionKinds;
import dachshund.core.tag.TagInfo;
import dachshund.core.work.Progress;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.jdbc.support.GeneratedKeyHolder;
import org.springframework.jdbc.support.KeyHolder;
import org.springframework.stereotype.Component;

/** Definitions, drafts and releases in our own database. */
@Component
public class DefinitionTables {

    private final JdbcClient jdbc;
    private final TagLists tagLists;

    DefinitionTables(JdbcClient jdbc, TagLists tagLists) {
        this.jdbc = jdbc;
        this.tagLists = tagLists;
    }

    /** Stands for a removal. */
    private static final TagLists.Apart NOTHING = new TagLists.Apart(null, null);

    /** Who made a release, and when. */
    public record By(String who, Instant at) {}

    Map<Long, By> releasedBy() {
        Map<Long, By> all = new HashMap<>();
        jdbc.sql("SELECT id, made_by, made_at FROM release_made").query(row -> {
            all.put(
                    row.getLong(1),
                    new By(
                            row.getString(2),
                            row.getObject(3, LocalDateTime.class).toInstant(ZoneOffset.UTC)));
        });
        return all;
    }

    private Optional<Definition> document(String document, String tagList) {
        return Optional.ofNullable(document).map(text -> tagLists.whole(text, tagList));
    }

    private static LocalDateTime utc(Instant at) {
        return LocalDateTime.ofInstant(at, ZoneOffset.UTC);
    }

    /** What is live: of each thing the version of its newest release, if that did not remove it. */
    List<Definition> live() {
        return jdbc.sql(
                        """
                SELECT v.document, v.tag_list FROM definition_version v
                JOIN (SELECT definition_id, MAX(release_id) AS newest FROM definition_version GROUP BY definition_id) n
                  ON n.definition_id = v.definition_id AND n.newest = v.release_id
                WHERE v.document IS NOT NULL""")
                .query((row, n) -> tagLists.whole(row.getString(1), row.getString(2)))
                .list();
    }

    boolean isRelease(long release) {
        return jdbc.sql("SELECT COUNT(*) FROM release_made WHERE id = ?")
                        .param(release)
                        .query(Long.class)
                        .single()
                == 1;
    }

    /** What was live after a release. */
    List<Definition> asOf(long release) {
        return jdbc.sql(
                        """
                SELECT v.document, v.tag_list FROM definition_version v
                JOIN (SELECT definition_id, MAX(release_id) AS newest FROM definition_version WHERE release_id <= ? GROUP BY definition_id) n
                  ON n.definition_id = v.definition_id AND n.newest = v.release_id
                WHERE v.document IS NOT NULL""")
                .param(release)
                .query((row, n) -> tagLists.whole(row.getString(1), row.getString(2)))
                .list();
    }

    /** In which release each thing was changed last. */
    Map<String, Long> changedIn() {
        Map<String, Long> releases = new HashMap<>();
        jdbc.sql("SELECT definition_id, MAX(release_id) FROM definition_version GROUP BY definition_id")
                .query(row -> {
                    releases.put(row.getString(1), row.getLong(2));
                });
        return releases;
    }

    /**
     * That a source was released.
     *
     * @param list name of its list of tags; empty where it has none, or was removed
     */
    record TagsReleased(String source, String list, By by) {}

    /** Sources in the order of their releases, behind one and up to another. */
    List<TagsReleased> tagsReleased(long behind, long upTo) {
        return jdbc.sql(
                        """
                SELECT v.definition_id, v.tag_list, r.made_by, r.made_at FROM definition_version v
                JOIN release_made r ON r.id = v.release_id
                WHERE v.kind = 'SOURCE' AND v.release_id > ? AND v.release_id <= ? ORDER BY v.release_id""")
                .params(behind, upTo)
                .query((row, n) -> new TagsReleased(
                        row.getString(1),
                        Optional.ofNullable(row.getString(2)).orElse(""),
                        new By(
                                row.getString(3),
                                row.getObject(4, LocalDateTime.class).toInstant(ZoneOffset.UTC))))
                .list();
    }

    /** The tags of a list; none where there is none. */
    List<TagInfo> tags(String list) {
        return list.isEmpty() ? List.of() : tagLists.list(list);
    }

    long newestRelease() {
        return jdbc.sql("SELECT COALESCE(MAX(id), 0) FROM release_made")
                .query(Long.class)
                .single();
    }

    List<ReleaseMade> releases(int limit) {
        return jdbc.sql("SELECT id, made_at, made_by, summary FROM release_made ORDER BY id DESC LIMIT ?")
                .param(limit)
                .query((row, n) -> new ReleaseMade(
                        row.getLong(1),
                        row.getObject(2, LocalDateTime.class).toInstant(ZoneOffset.UTC),
                        row.getString(3),
                        row.getString(4).lines().toList()))
                .list();
    }

    List<Draft> drafts() {
        return jdbc.sql(
                        """
                SELECT d.definition_id, d.revision, d.kind, d.name, d.document, d.edited_by, d.edited_at, d.tag_list FROM draft d
                JOIN (SELECT definition_id, MAX(revision) AS newest FROM draft GROUP BY definition_id) n
                  ON n.definition_id = d.definition_id AND n.newest = d.revision ORDER BY d.edited_at""")
                .query((row, n) -> draft(row))
                .list();
    }

    /** The newest draft of a thing. */
    Optional<Draft> draft(String id) {
        return jdbc.sql(
                        """
                SELECT definition_id, revision, kind, name, document, edited_by, edited_at, tag_list FROM draft
                WHERE definition_id = ? ORDER BY revision DESC LIMIT 1""")
                .param(id)
                .query((row, n) -> draft(row))
                .optional();
    }

    private Draft draft(ResultSet row) throws SQLException {
        return new Draft(
                row.getString(1),
                row.getInt(2),
                DefinitionKinds.of(row.getString(3)),
                row.getString(4),
                document(row.getString(5), row.getString(8)),
                row.getString(6),
                row.getObject(7, LocalDateTime.class).toInstant(ZoneOffset.UTC));
    }

    void insertDraft(Draft draft) {
        TagLists.Apart apart = draft.definition().map(tagLists::apart).orElse(NOTHING);
        jdbc.sql(
                        "INSERT INTO draft (definition_id, revision, kind, name, document, tag_list, edited_by, edited_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)")
                .params(
                        draft.id(),
                        draft.revision(),
                        draft.kind().id(),
                        draft.name(),
                        apart.document(),
                        apart.hash(),
                        draft.by(),
                        utc(draft.at()))
                .update();
    }

    void deleteDraft(String id, int revision) {
        jdbc.sql("DELETE FROM draft WHERE definition_id = ? AND revision = ?")
                .params(id, revision)
                .update();
    }

    void deleteDrafts(String id) {
        jdbc.sql("DELETE FROM draft WHERE definition_id = ?").param(id).update();
    }

    /** Adds a release with the versions of the given drafts. To be called inside a transaction. */
    long insertRelease(List<Draft> drafts, List<String> summary, String by, Instant at, Progress progress) {
        int done = 0;
        KeyHolder key = new GeneratedKeyHolder();
        jdbc.sql("INSERT INTO release_made (made_at, made_by, summary) VALUES (?, ?, ?)")
                .params(utc(at), by, String.join("\n", summary))
                .update(key, "id");
        long release = key.getKey().longValue();
        for (Draft draft : drafts) {
            TagLists.Apart apart = draft.definition().map(tagLists::apart).orElse(NOTHING);
            jdbc.sql(
                            "INSERT INTO definition_version (definition_id, release_id, kind, name, document, tag_list) VALUES (?, ?, ?, ?, ?, ?)")
                    .params(draft.id(), release, draft.kind().id(), draft.name(), apart.document(), apart.hash())
                    .update();
            deleteDrafts(draft.id());
            progress.done(++done);
        }
        tagLists.tidy();
        return release;
    }
}
