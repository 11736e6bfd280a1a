package org.ysteron.internal.table;

import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.Map;
import java.util.function.Function;
import org.ysteron.data.Json;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.Reach;

/**
 * A page that is a JSON object, at some place. What is written is read back at once, so that nobody
 * is given a page that cannot be read; members that this program does not know are kept.
 *
 * @param members the object
 * @param place where it stands
 */
public record JsonPage(JsonObject members, PagePlace place) {

  /** What such a page holds. */
  public interface Content {
    /** The object, in a page at some place. */
    Map<String, Object> toJson(PagePlace place);
  }

  /** Writes an object, and reads it back; the references are those in it that are followed. */
  public static <T extends Content> PageRef write(
      T made, Function<JsonPage, T> parser, PageBatch batch, PageRef... references) {
    PagePlace place = batch.next();
    Map<String, Object> json = made.toJson(place);
    byte[] bytes = Json.write(json).getBytes(StandardCharsets.UTF_8);
    String against = null;
    try {
      T read = parser.apply(new JsonPage(JsonObject.parse(bytes), place));
      // A literal may come back as another class of number, which only the JSON tells is the same.
      if (!read.equals(made) && !JsonObject.areSame(read.toJson(place), json)) {
        against = "it would be read as something else";
      }
    } catch (DamagedException | ClassCastException | InvalidInputException e) {
      against = e.getMessage();
    }
    if (against != null || bytes.length > PageRef.LARGEST_PAGE) {
      throw new InvalidInputException(
          "The new metadata of %d bytes cannot be read back%s. Nothing was changed; make it smaller or simpler."
              .formatted(bytes.length, against == null ? "" : ": " + against));
    }
    PageRef ref = batch.add(bytes, Reach.below(batch.home(), Arrays.asList(references)));
    batch.keep(ref, made);
    return ref;
  }

  /** Reads a page, once while it is kept. */
  public static <T> T read(
      PageRef ref, PageStore pages, Class<T> as, Function<JsonPage, T> parser) {
    return pages.decoded(
        ref, as, (bytes, place) -> parser.apply(new JsonPage(JsonObject.parse(bytes), place)));
  }

  /** The object, which must be of some kind. */
  public JsonObject json(String kind) {
    if (!members.text("page").equals(kind)) {
      throw new DamagedException(
          "A page is a %s where a %s was expected.".formatted(members.text("page"), kind));
    }
    return members;
  }

  /** The root of a tree. */
  public PageTree.Root root(String name) {
    return PageTree.Root.parse(members.text(name), place);
  }
}
