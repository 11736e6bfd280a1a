package org.ysteron.internal.read;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Schema;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.file.RowSpan;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Means;
import org.ysteron.internal.work.Workers;

/**
 * The rows of files of a version, file after file, with where they are. With several threads as
 * many files, or runs of row groups of large ones, are read ahead as there are threads. Closing
 * early stops the workers. For one thread.
 */
public final class FilesScan implements Source<FileRows> {
  /** A worker is given no less of a file than this. */
  private static final long LEAST_BYTES = 4L << 20;

  private final ReadContext context;
  private final Spans spans;
  private final Schema wanted;
  private final Filter filter;
  private final Told told;
  private final SourcesAhead<FileRows> rows;

  /**
   * A file to read.
   *
   * @param only the positions of the rows that are meant; null for all
   */
  public record Part(ScanPlan.Task task, RoaringBitmap only) {
    /** Rows of a file of a version that count, whatever is in them. */
    public static Part of(VersionPage table, FileEntry file, RoaringBitmap only) {
      return new Part(new ScanPlan.Task(table, file, false), only);
    }
  }

  /** A part of a file for one worker. */
  private record Span(FileEntry file, FileTask task, RoaringBitmap only) {}

  /** What is told of rows beside their values. */
  private enum Told {
    NOTHING,
    /** Nothing; and batches are left as they are read, where many of their rows pass. */
    CARRIED,
    PLACES,
    /** Their places, serials and births. */
    NUMBERS
  }

  private FilesScan(
      ReadContext context,
      Supplier<Optional<Part>> files,
      Schema wanted,
      Filter filter,
      Told told) {
    this(context, new Spans(context, files, wanted, false), wanted, filter, told);
  }

  private FilesScan(ReadContext context, Spans spans, Schema wanted, Filter filter, Told told) {
    this.context = context;
    this.spans = spans;
    this.wanted = wanted;
    this.filter = filter;
    this.told = told;
    this.rows = new SourcesAhead<>(context.workers(), FileRows::read, this::nextSource);
  }

  /**
   * The rows of files that pass.
   *
   * @param files the next file; empty when there is no other
   */
  public static FilesScan of(
      ReadContext context, Supplier<Optional<Part>> files, Schema wanted, Filter filter) {
    return new FilesScan(context, files, wanted, filter, Told.PLACES);
  }

  /** The rows of files that pass, without where they are. */
  static FilesScan unplaced(
      ReadContext context, Supplier<Optional<Part>> files, Schema wanted, Filter filter) {
    return new FilesScan(context, files, wanted, filter, Told.NOTHING);
  }

  /** The rows that pass, of all files of a plan, without where they are. */
  static FilesScan unplaced(ReadContext context, ScanPlan plan, Schema wanted, Filter filter) {
    return unplaced(context, parts(plan), wanted, filter);
  }

  /** The rows of some files that pass, where a file's task says that they have to. */
  public static FilesScan of(ReadContext context, List<Part> parts, Schema wanted, Filter filter) {
    return of(context, supplier(parts), wanted, filter);
  }

  /** The rows that pass, of all files of a plan. */
  public static FilesScan of(ReadContext context, ScanPlan plan, Schema wanted, Filter filter) {
    return of(context, parts(plan), wanted, filter);
  }

  /**
   * The rows of some files, with their serials and births.
   *
   * @param filter what rows have to pass, where the file's task says so
   */
  public static FilesScan told(
      ReadContext context, List<Part> parts, Schema wanted, Filter filter) {
    return new FilesScan(context, supplier(parts), wanted, filter, Told.NUMBERS);
  }

  /** The rows that pass, of file after file, with their serials and births. */
  public static FilesScan told(
      ReadContext context, Supplier<Optional<Part>> files, Schema wanted, Filter filter) {
    return new FilesScan(context, files, wanted, filter, Told.NUMBERS);
  }

  /** The same, left as batches are read where many of their rows pass. */
  static FilesScan carrying(ReadContext context, ScanPlan plan, Schema wanted, Filter filter) {
    return new FilesScan(context, parts(plan), wanted, filter, Told.CARRIED);
  }

  /**
   * The rows of a plan in several scans, each for one thread, which reads them alone. A scan takes
   * the next file, or the next part of a large one, when it is done with the one before.
   *
   * @param placed whether it is told where rows are; else batches are left as they are read, where
   *     many of their rows pass
   */
  static List<FilesScan> shared(
      ReadContext context, ScanPlan plan, Schema wanted, Filter filter, int count, boolean placed) {
    Means means = context.workers().means();
    ReadContext alone =
        new ReadContext(
            context.store(),
            context.pages(),
            context.footers(),
            new Workers(new Means(0, means.memory() / count, means.temporary())),
            context.watch(),
            context.clock());
    Spans spans = new Spans(context, parts(plan), wanted, true);
    Told told = placed ? Told.PLACES : Told.CARRIED;
    return Stream.generate(() -> new FilesScan(alone, spans, wanted, filter, told))
        .limit(count)
        .toList();
  }

  /** The rows that pass, of all files of a plan, with their serials and births. */
  public static FilesScan told(ReadContext context, ScanPlan plan, Schema wanted, Filter filter) {
    return new FilesScan(context, parts(plan), wanted, filter, Told.NUMBERS);
  }

  private static Supplier<Optional<Part>> parts(ScanPlan plan) {
    return () -> plan.next().map(task -> new Part(task, null));
  }

  private static Supplier<Optional<Part>> supplier(List<Part> parts) {
    Iterator<Part> next = parts.iterator();
    return () -> next.hasNext() ? Optional.of(next.next()) : Optional.empty();
  }

  /** The rows of a version at some places, with their serials and births. */
  public static FilesScan told(
      ReadContext context,
      VersionPage version,
      Map<FileEntry, RoaringBitmap> places,
      Schema wanted) {
    List<Part> parts = new ArrayList<>();
    places.forEach((file, rows) -> parts.add(Part.of(version, file, rows)));
    return told(context, parts, wanted);
  }

  /** The rows of some files, with their serials and births, whatever is in them. */
  public static FilesScan told(ReadContext context, List<Part> parts, Schema wanted) {
    return told(context, parts, wanted, Filter.bind(Condition.all(), wanted));
  }

  @Override
  public Optional<FileRows> next() {
    return rows.next();
  }

  private Optional<SourcesAhead.Part<FileRows>> nextSource() {
    return spans
        .next()
        .map(
            span -> {
              boolean tells =
                  told == Told.NUMBERS && (span.file.tellsSerials() || span.file.tellsBirths());
              Schema columns = tells ? HiddenColumns.with(wanted) : wanted;
              FileScan scan =
                  new FileScan(
                      context.store(), context.footers(), span.task, columns, filter, span.only);
              if (told == Told.CARRIED) {
                scan.carrying();
              }
              boolean byColumns = spans.isByColumns(span.task);
              if (byColumns) {
                scan.sideBySide(context.workers());
              }
              boolean placed = told == Told.PLACES || told == Told.NUMBERS;
              return new SourcesAhead.Part<>(scan.rows(span.file, placed), !byColumns);
            });
  }

  @Override
  public void close() {
    rows.close();
  }

  /** The parts of files that are to be read, each of which is handed out once. Thread-safe. */
  private static final class Spans {
    private final ReadContext context;
    private final Supplier<Optional<Part>> files;
    private final Schema wanted;
    private final boolean byGroups;
    private final Deque<Span> spans = new ArrayDeque<>();

    /** {@code byGroups}: whether large files are always cut between row groups. */
    Spans(ReadContext context, Supplier<Optional<Part>> files, Schema wanted, boolean byGroups) {
      this.context = context;
      this.files = files;
      this.wanted = wanted;
      this.byGroups = byGroups;
    }

    synchronized Optional<Span> next() {
      if (spans.isEmpty()) {
        files.get().ifPresent(this::cut);
      }
      return Optional.ofNullable(spans.poll());
    }

    /** Whether the columns of a file are shared among all threads, and not its rows. */
    boolean isByColumns(FileTask task) {
      return !byGroups && isLarge(task) && isWide() && !task.filtered();
    }

    /** Cuts a large file between row groups. */
    private void cut(Part part) {
      FileEntry file = part.task.entry();
      FileTask task = FileTask.of(part.task, context.pages());
      if (!isLarge(task) || isByColumns(task)) {
        spans.add(new Span(file, task, part.only));
        return;
      }
      long least = Math.max(1, LEAST_BYTES * task.file().rows() / Math.max(1, task.file().size()));
      long from = 0;
      for (RowSpan group : groups(task)) {
        boolean isLast = group.to() == task.file().rows();
        if (isLast || group.to() - from >= least) {
          spans.add(new Span(file, task.among(new RowSpan(from, group.to())), part.only));
          from = group.to();
        }
      }
    }

    private boolean isLarge(FileTask task) {
      return context.workers().threads() > 1 && task.file().size() >= 2 * LEAST_BYTES;
    }

    /** Enough columns to share them among all threads. */
    private boolean isWide() {
      return wanted.columns().size() >= 2 * context.workers().threads();
    }

    private List<RowSpan> groups(FileTask task) {
      try {
        return DataFileReader.groups(context.store(), task.file(), task.table(), context.footers());
      } catch (YsteronException e) {
        return List.of(task.span()); // it is met again when the file's turn comes
      }
    }
  }
}
