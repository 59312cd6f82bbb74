import java.io.File
import kotlin.system.exitProcess

/** The least share of all steps that must be compared; raise it with what your app can take. */
private const val LEAST = 0.1

@Suppress("UNCHECKED_CAST")
private fun map(value: Any?): Map<String, Any?> = value as Map<String, Any?>

@Suppress("UNCHECKED_CAST")
private fun list(value: Any?): List<Any?> = value as List<Any?>

private fun demand(holds: Boolean, said: String) {
  if (!holds) throw AssertionError(said)
}

/** An app of one pane: a chain for each section, and links that carry keys. */
private class StandIn(private val contract: Map<String, Any?>) {
  private var section = contract["start"] as String
  private val chains = LinkedHashMap<String, MutableList<Routes.Route>>()

  val chain: MutableList<Routes.Route> get() = chains.getOrPut(section) { ArrayList() }

  /** Take a state over from a vector. */
  fun become(line: Map<String, Any?>) {
    section = line["section"] as String
    chains[section] = list(line["chain"]).map { each ->
      val entry = map(each)
      val route = Routes.routeOf(entry["screen"] as String, map(entry["arguments"]))
      demand(route != null, "$entry")
      route!!
    }.toMutableList()
  }

  /** Whether the event is one that this app knows how to take. */
  fun take(event: Map<String, Any?>): Boolean = when (event["do"]) {
    "choose" -> follow("row", event["list"] as String? ?: "", event)
    "press" -> follow("button", event["button"] as String, event)
    "back" -> {
      if (chain.size > 1) chain.removeAt(chain.size - 1)
      chain.isNotEmpty()
    }
    else -> false
  }

  /** Open what a link opens from the last screen, if it carries nothing but keys. */
  private fun follow(on: String, part: String, event: Map<String, Any?>): Boolean {
    val last = chain.lastOrNull() ?: return false
    if ((event["screen"] ?: last.screen) != last.screen) return false
    val wanted = mapOf("screen" to last.screen, "on" to on, "part" to part)
    val link = list(contract["links"]).map(::map).firstOrNull { it["from"] == wanted }
    if (link == null || link["how"] == "replace") return false
    val given = LinkedHashMap<String, Any?>()
    for (each in list(link["arguments"])) {
      val argument = map(each)
      val value = when {
        argument["from"] == "argument" -> last.arguments[argument["argument"]]
        argument["is_key"] == true -> event["key"]
        else -> null
      } ?: return false
      given[argument["parameter"] as String] = value
    }
    val opened = Routes.routeOf(link["to"] as String, given)
    demand(opened != null, "$link")
    if (opened!! !in chain) chain.add(opened)
    return true
  }
}

/** Whether nothing but the event itself has happened: nothing asked, refused, or by rule. */
private fun isPlain(line: Map<String, Any?>): Boolean =
  line["question"] == null &&
    list(line["notes"]).all { map(it)["kind"] in setOf("opened", "back", "arranged") }

/** Replays one walk; how many steps were compared, and how many taken over. */
private fun replay(file: File, contract: Map<String, Any?>): Pair<Int, Int> {
  val app = StandIn(contract)
  var compared = 0
  var over = 0
  for (text in file.readLines()) {
    val line = map(Json.read(text))
    if (line["event"] != null && isPlain(line) && app.take(map(line["event"]))) {
      val wanted = list(line["chain"]).map(::map)
      val got = app.chain.map { mapOf("screen" to it.screen, "arguments" to it.arguments) }
      val told = wanted.map { mapOf("screen" to it["screen"], "arguments" to it["arguments"]) }
      demand(got == told, "$file: ${line["event"]}: $got in place of $told")
      compared++
    } else if (list(line["chain"]).isNotEmpty()) {
      app.become(line)
      over++
    }
    for (route in app.chain) {
      val told = Routes.addressOf(route) ?: continue
      demand(told == Routes.routeAt(told)?.let { Routes.addressOf(it) }, told)
    }
  }
  return compared to over
}

/**
 * Replays all vectors of windows with one pane against a stand-in app; put your own in its place.
 *
 * What the stand-in does not know how to take it takes over from the vector, and is not compared.
 */
fun main(given: Array<String>) {
  val here = File(given.firstOrNull() ?: "..")
  val contract = map(Json.read(File(here, "routes.json").readText()))
  val chain = """{"section":"a","entries":[{"screen":"no such screen"}]}"""
  val state = Routes.readSaved("""{"section":"a","chains":[$chain],"values":{"x":1}}""")
  demand(state.chains[0].entries.isEmpty(), "what does not fit is dropped")
  demand(Routes.readSaved(Routes.writeSaved(state)) == state, "saved and read again")
  demand(Routes.readSaved("{").chains.isEmpty(), "what is no JSON is nothing")
  val onePane = list(contract["windows"]).map(::map).filter { list(it["panes"]).size == 1 }
  val names = onePane.map { it["vectors"] as String }
  val files = File(here, "vectors").listFiles().orEmpty().sorted()
  val counts = files.filter { it.name.split(".").dropLast(1).last() in names }
    .map { replay(it, contract) }
  val compared = counts.sumOf { it.first }
  val over = counts.sumOf { it.second }
  println("compared $compared of ${compared + over} steps, taken over $over")
  if (compared == 0 || compared < LEAST * (compared + over)) {
    System.err.println("too little was compared to say anything")
    exitProcess(1)
  }
}
