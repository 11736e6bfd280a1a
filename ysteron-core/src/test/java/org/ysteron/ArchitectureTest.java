package org.ysteron;

import static com.tngtech.archunit.base.DescribedPredicate.not;
import static com.tngtech.archunit.core.domain.JavaClass.Predicates.resideInAPackage;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.Architectures.layeredArchitecture;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;
import static org.assertj.core.api.Assertions.assertThat;

import com.tngtech.archunit.base.DescribedPredicate;
import com.tngtech.archunit.core.domain.JavaClass;
import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.domain.JavaCodeUnit;
import com.tngtech.archunit.core.domain.JavaField;
import com.tngtech.archunit.core.domain.JavaModifier;
import com.tngtech.archunit.core.domain.JavaType;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.library.Architectures.LayeredArchitecture;
import com.tngtech.archunit.library.dependencies.SliceAssignment;
import com.tngtech.archunit.library.dependencies.SliceIdentifier;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.jspecify.annotations.NullMarked;
import org.jspecify.annotations.NullUnmarked;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class ArchitectureTest {
  private static final String ROOT = "org.ysteron";
  private static final int MOST_CLASSES = 25;
  private static final int MOST_LINES = 600;
  private static final int FEW_LINES = 300;

  /** What a user imports; everything else is below {@code org.ysteron.internal}. */
  private static final Set<String> PUBLIC =
      Set.of(
          "",
          "intake",
          "task",
          "proof",
          "maintenance",
          "history",
          "option",
          "report",
          "expr",
          "data",
          "store",
          "progress",
          "error");

  /** From the top down; a room may use those below it. */
  private static final List<String> ROOMS =
      List.of(
          "",
          "intake",
          "task",
          "remote",
          "erase",
          "check",
          "upkeep",
          "position",
          "compare",
          "measure",
          "copying",
          "merge",
          "statement",
          "transact",
          "seen",
          "write",
          "keys",
          "commit",
          "lake",
          "changes",
          "read",
          "drift",
          "table",
          "form",
          "layout",
          "file",
          "column",
          "filter",
          "evaluate",
          "compute",
          "typing",
          "tree",
          "json",
          "rows",
          "proof",
          "maintenance",
          "history",
          "option",
          "report",
          "expr",
          "data",
          "store",
          "work",
          "text",
          "bytes",
          "progress",
          "error");

  private static final Pattern IMPORT =
      Pattern.compile("import (?:static )?(org\\.ysteron(?:\\.[a-z]+)*)\\.[A-Z]");

  private static final JavaClasses CLASSES =
      new ClassFileImporter()
          .importUrl(Lake.class.getProtectionDomain().getCodeSource().getLocation())
          .that(resideInAPackage("org.ysteron.."));

  private static String packageOf(String room) {
    String in = PUBLIC.contains(room) ? ROOT : ROOT + ".internal";
    return room.isEmpty() ? in : in + "." + room;
  }

  private static Path sources(String room) {
    return Path.of("src/main/java", packageOf(room).split("\\."));
  }

  private static List<Path> files(String room) throws IOException {
    try (Stream<Path> files = Files.list(sources(room))) {
      return files
          .filter(file -> file.toString().endsWith(".java"))
          .filter(file -> !file.endsWith("package-info.java"))
          .toList();
    }
  }

  @Test
  void everyPackageIsARoomOfTheList() {
    Set<String> packages = new TreeSet<>();
    CLASSES.forEach(c -> packages.add(c.getPackageName()));
    assertThat(packages)
        .containsExactlyInAnyOrderElementsOf(
            ROOMS.stream().map(ArchitectureTest::packageOf).toList());
  }

  @Test
  void roomsUseOnlyRoomsBelowThem() {
    LayeredArchitecture rooms = layeredArchitecture().consideringOnlyDependenciesInLayers();
    for (String room : ROOMS) {
      rooms = rooms.layer(name(room)).definedBy(packageOf(room));
    }
    rooms = rooms.whereLayer(name("")).mayNotBeAccessedByAnyLayer();
    rooms = rooms.whereLayer(name("intake")).mayNotBeAccessedByAnyLayer();
    for (int i = 2; i < ROOMS.size(); i++) {
      String[] above =
          ROOMS.subList(0, i).stream().map(ArchitectureTest::name).toArray(String[]::new);
      rooms = rooms.whereLayer(name(ROOMS.get(i))).mayOnlyBeAccessedByLayers(above);
    }
    rooms.check(CLASSES);
  }

  private static String name(String room) {
    return room.isEmpty() ? "root" : room;
  }

  @Test
  void noRoomsUseEachOther() {
    slices()
        .assignedFrom(slicesBy("packages", JavaClass::getPackageName))
        .should()
        .beFreeOfCycles()
        .check(CLASSES);
  }

  /** Rooms in which no two classes need each other. */
  @ParameterizedTest
  @ValueSource(strings = {"", "transact", "seen", "changes", "read"})
  void noClassesOfARoomUseEachOther(String room) {
    slices()
        .assignedFrom(
            slicesBy(
                "classes of a room",
                one ->
                    one.getPackageName().equals(packageOf(room))
                        ? outermost(one).getSimpleName()
                        : ""))
        .should()
        .beFreeOfCycles()
        .check(CLASSES);
  }

  private static JavaClass outermost(JavaClass one) {
    JavaClass outer = one;
    while (outer.getEnclosingClass().isPresent()) {
      outer = outer.getEnclosingClass().get();
    }
    return outer;
  }

  /** Slices by a name; classes with an empty one are in none. */
  private static SliceAssignment slicesBy(String what, Function<JavaClass, String> name) {
    return new SliceAssignment() {
      @Override
      public SliceIdentifier getIdentifierOf(JavaClass one) {
        String of = name.apply(one);
        return of.isEmpty() ? SliceIdentifier.ignore() : SliceIdentifier.of(of);
      }

      @Override
      public String getDescription() {
        return what;
      }
    };
  }

  @Test
  void theDocumentOfAPackageNamesTheRoomsItUses() throws IOException {
    Pattern uses = Pattern.compile("<p>Uses ([^.]*)\\.");
    for (String room : ROOMS) {
      Set<String> used = new TreeSet<>();
      for (Path file : files(room)) {
        Matcher imported = IMPORT.matcher(Files.readString(file));
        while (imported.find()) {
          if (!imported.group(1).equals(packageOf(room))) {
            used.add(imported.group(1).substring(imported.group(1).lastIndexOf('.') + 1));
          }
        }
      }
      String text =
          Files.readString(sources(room).resolve("package-info.java")).replaceAll("\n \\* ?", " ");
      Matcher says = uses.matcher(text);
      assertThat(says.find()).as("package-info of %s says what it uses", packageOf(room)).isTrue();
      List<String> said =
          says.group(1).equals("no other room") ? List.of() : List.of(says.group(1).split(", "));
      assertThat(said).as(packageOf(room)).containsExactlyElementsOf(used);
    }
  }

  @Test
  void theDrawingOfTheRoomsIsTrue() throws IOException {
    String text = Files.readString(Path.of("../docs/architecture.md"));
    List<String> drawn = new ArrayList<>();
    Set<String> open = new TreeSet<>();
    Matcher line = Pattern.compile("(?m)^ {6}([●·]) (\\w+) ").matcher(text);
    while (line.find()) {
      drawn.add(line.group(2));
      if (line.group(1).equals("●")) {
        open.add(line.group(2));
      }
    }
    assertThat(drawn).isEqualTo(ROOMS.stream().map(ArchitectureTest::name).toList());
    assertThat(open).isEqualTo(new TreeSet<>(PUBLIC.stream().map(ArchitectureTest::name).toList()));
  }

  @Test
  void theFlowsGoDownOnly() throws IOException {
    String text = Files.readString(Path.of("../docs/architecture.md"));
    String flows = text.substring(text.indexOf("## Three flows"), text.indexOf("## One commit"));
    Matcher step = Pattern.compile("(?m)^(\\d+)\\. `(\\w+)`: (.*)$").matcher(flows);
    List<String> rooms = ROOMS.stream().map(ArchitectureTest::name).toList();
    int flow = 0;
    int above = -1;
    while (step.find()) {
      int number = Integer.parseInt(step.group(1));
      flow += number == 1 ? 1 : 0;
      above = number == 1 ? -1 : above;
      int room = rooms.indexOf(step.group(2));
      assertThat(room).as(step.group()).isGreaterThan(above);
      assertThat(number).as(step.group()).isLessThanOrEqualTo(10);
      above = room;
      Matcher named = Pattern.compile("`([A-Z]\\w+)").matcher(step.group(3));
      while (named.find()) {
        String at = packageOf(step.group(2).equals("root") ? "" : step.group(2));
        assertThat(CLASSES.contain(at + "." + named.group(1))).as(step.group()).isTrue();
      }
    }
    assertThat(flow).isEqualTo(3);
  }

  @Test
  void roomsAndFilesAreSmall() throws IOException {
    List<Integer> lines = new ArrayList<>();
    for (String room : ROOMS) {
      assertThat(files(room)).as(packageOf(room)).hasSizeLessThanOrEqualTo(MOST_CLASSES);
      for (Path file : files(room)) {
        int count = Files.readAllLines(file).size();
        assertThat(count).as(file.toString()).isLessThanOrEqualTo(MOST_LINES);
        lines.add(count);
      }
    }
    long small = lines.stream().filter(count -> count < FEW_LINES).count();
    assertThat(small).isGreaterThanOrEqualTo(lines.size() * 9L / 10);
  }

  @Test
  void whatUsersSeeShowsNothingInternal() {
    List<String> shown = new ArrayList<>();
    for (JavaClass one : CLASSES) {
      if (!isPublic(one)) {
        continue;
      }
      one.getSuperclass().ifPresent(type -> look(type, one.getName(), shown));
      one.getInterfaces().forEach(type -> look(type, one.getName(), shown));
      for (JavaField field : one.getFields()) {
        if (isOpen(field.getModifiers())) {
          look(field.getType(), field.getFullName(), shown);
        }
      }
      for (JavaCodeUnit unit : one.getCodeUnits()) {
        if (isOpen(unit.getModifiers()) && !unit.getModifiers().contains(JavaModifier.SYNTHETIC)) {
          look(unit.getReturnType(), unit.getFullName(), shown);
          unit.getParameterTypes().forEach(type -> look(type, unit.getFullName(), shown));
          unit.getExceptionTypes().forEach(type -> look(type, unit.getFullName(), shown));
        }
      }
    }
    assertThat(shown).isEmpty();
  }

  @Test
  void everyPublicClassHasNullability() {
    for (JavaClass one : CLASSES) {
      if (isPublic(one)) {
        assertThat(one.getPackage().isAnnotatedWith(NullMarked.class)).as(one.getName()).isTrue();
        assertThat(one.isAnnotatedWith(NullUnmarked.class)).as(one.getName()).isFalse();
      }
    }
  }

  private static boolean isOpen(Set<JavaModifier> modifiers) {
    return modifiers.contains(JavaModifier.PUBLIC) || modifiers.contains(JavaModifier.PROTECTED);
  }

  private static boolean isPublic(JavaClass one) {
    boolean seen = !one.getPackageName().startsWith(ROOT + ".internal") && !one.isAnonymousClass();
    for (JavaClass in = one; in != null && seen; in = in.getEnclosingClass().orElse(null)) {
      seen = isOpen(in.getModifiers());
    }
    return seen;
  }

  private static void look(JavaType type, String where, List<String> shown) {
    for (JavaClass raw : new HashSet<>(type.getAllInvolvedRawTypes())) {
      if (raw.getPackageName().startsWith(ROOT) && !isPublic(raw.getBaseComponentType())) {
        shown.add(where + " shows " + raw.getName());
      }
    }
  }

  @Test
  void filesOfTheDiskAreKnownToTheStoreOnly() {
    DescribedPredicate<JavaClass> apis =
        JavaClass.Predicates.belongToAnyOf(
            java.io.File.class,
            java.io.FileInputStream.class,
            java.io.FileOutputStream.class,
            java.io.FileReader.class,
            java.io.FileWriter.class,
            java.io.RandomAccessFile.class,
            java.nio.channels.FileChannel.class,
            java.nio.file.Files.class,
            java.nio.file.FileSystems.class,
            java.util.zip.ZipFile.class);
    noClasses()
        .that(
            resideInAPackage("org.ysteron..")
                .and(not(resideInAPackage("org.ysteron.store")))
                // Files of others are read where they are.
                .and(not(resideInAPackage("org.ysteron.intake")))
                // What memory does not hold is spilled.
                .and(not(JavaClass.Predicates.simpleName("TempFiles")))
                .and(not(JavaClass.Predicates.simpleName("RawRows")))
                .and(not(JavaClass.Predicates.simpleName("Spill"))))
        .should()
        .dependOnClassesThat(apis)
        .check(CLASSES);
  }

  @Test
  void theCoreTalksToNoTerminal() {
    noClasses()
        .should()
        .accessField(System.class, "out")
        .orShould()
        .accessField(System.class, "err")
        .check(CLASSES);
    assertThat(CLASSES.size()).isGreaterThan(100);
  }
}
