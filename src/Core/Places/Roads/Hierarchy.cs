namespace SteadyLark.Core.Places.Roads;

/// <summary>The cost of an edge or a path.</summary>
/// <param name="Cost">What is minimized: minutes or miles, plus a penalty for avoided tolls.</param>
/// <param name="TollMiles">Of the miles, on toll roads.</param>
public readonly record struct Weight(double Cost, double Miles, double Minutes, double TollMiles = 0)
{
    /// <summary>Of a path that does not exist.</summary>
    public static readonly Weight Never = new(
        double.PositiveInfinity,
        double.PositiveInfinity,
        double.PositiveInfinity,
        double.PositiveInfinity
    );

    public static Weight operator +(Weight a, Weight b) =>
        new(a.Cost + b.Cost, a.Miles + b.Miles, a.Minutes + b.Minutes, a.TollMiles + b.TollMiles);
}

/// <summary>
/// A contraction hierarchy over an undirected graph: nodes are contracted in order of importance, and where a shortest path led through
/// one,
/// a shortcut replaces it (Geisberger, Sanders, Schultes and Delling, "Contraction Hierarchies", WEA 2008). Searches only go upward, from
/// both ends.
/// </summary>
public sealed class Hierarchy
{
    /// <summary>Witness search limit, in settled nodes. A lower limit makes more shortcuts, never a wrong path.</summary>
    private const int WitnessLimit = 60;

    private readonly int[] _first;
    private readonly int[] _to;
    private readonly Weight[] _weight;

    /// <summary>The node a shortcut bypasses, or -1 - edge for an edge of the graph.</summary>
    private readonly int[] _via;

    [ThreadStatic]
    private static Desk? _desk;

    private Hierarchy(int[] first, int[] to, Weight[] weight, int[] via) => (_first, _to, _weight, _via) = (first, to, weight, via);

    public int NodeCount => _first.Length - 1;

    /// <param name="nodes">Number of nodes, numbered from 0.</param>
    /// <param name="edges">Ends and weight, cost at least 0; an infinite cost leaves an edge out.</param>
    public static Hierarchy Build(int nodes, IReadOnlyList<(int A, int B, Weight Weight)> edges)
    {
        var links = new List<Link>[nodes];
        for (var i = 0; i < nodes; i++)
        {
            links[i] = new List<Link>(6);
        }

        for (var e = 0; e < edges.Count; e++)
        {
            var (a, b, weight) = edges[e];
            if (a != b && !double.IsInfinity(weight.Cost))
            {
                Put(links, a, b, weight, -1 - e);
            }
        }

        var rank = new int[nodes];
        Array.Fill(rank, -1);
        var depth = new int[nodes];
        var witness = new Search(nodes);
        var queue = new PriorityQueue<int, int>(nodes);
        for (var v = 0; v < nodes; v++)
        {
            queue.Enqueue(v, Contract(v, links, rank, witness, null) * 2);
        }

        var upward = new List<Link>[nodes];
        var next = 0;
        var made = new List<(int A, int B, Weight Weight, int Via)>();
        while (queue.TryDequeue(out var v, out var importance))
        {
            if (rank[v] >= 0)
            {
                continue;
            }

            // Its importance may have grown since; then it is queued again.
            made.Clear();
            var now = (Contract(v, links, rank, witness, made) * 2) + depth[v];
            if (queue.TryPeek(out _, out var min) && now > importance && now > min)
            {
                queue.Enqueue(v, now);
                continue;
            }

            upward[v] = links[v].Where(l => rank[l.To] < 0).ToList();
            rank[v] = next++;
            foreach (var l in upward[v])
            {
                depth[l.To] = Math.Max(depth[l.To], depth[v] + 1);
                links[l.To].RemoveAll(x => x.To == v);
            }

            foreach (var (a, b, weight, via) in made)
            {
                Put(links, a, b, weight, via);
            }
        }

        var first = new int[nodes + 1];
        for (var v = 0; v < nodes; v++)
        {
            first[v + 1] = first[v] + upward[v].Count;
        }

        var (to, weights, through) = (new int[first[nodes]], new Weight[first[nodes]], new int[first[nodes]]);
        for (var v = 0; v < nodes; v++)
        {
            for (var i = 0; i < upward[v].Count; i++)
            {
                (to[first[v] + i], weights[first[v] + i], through[first[v] + i]) = (upward[v][i].To, upward[v][i].Weight, upward[v][i].Via);
            }
        }

        return new Hierarchy(first, to, weights, through);
    }

    /// <summary>Everything reachable upward from some nodes with initial costs.</summary>
    /// <param name="seeds">Start nodes, each with its initial cost.</param>
    public Reach Up(IReadOnlyList<(int Node, Weight Spent)> seeds)
    {
        var desk = _desk ??= new Desk();
        desk.Begin(NodeCount);
        foreach (var (node, spent) in seeds)
        {
            desk.Offer(node, spent, -1, -1);
        }

        while (desk.Queue.TryDequeue(out var v, out var cost))
        {
            var at = desk.Spent[v];
            if (cost > at.Cost || desk.Settled[v] == desk.RoundTrip)
            {
                continue;
            }

            desk.Settled[v] = desk.RoundTrip;
            desk.Order.Add(v);
            for (var i = _first[v]; i < _first[v + 1]; i++)
            {
                desk.Offer(_to[i], at + _weight[i], v, i);
            }
        }

        desk.Order.Sort();
        var nodes = desk.Order.ToArray();
        var (spentAt, parents) = (new Weight[nodes.Length], new (int From, int Link)[nodes.Length]);
        for (var k = 0; k < nodes.Length; k++)
        {
            (spentAt[k], parents[k]) = (desk.Spent[nodes[k]], desk.Parent[nodes[k]]);
        }

        return new Reach(nodes, spentAt, parents);
    }

    /// <summary>The least cost between two reaches, and the node where they meet; infinite and -1 when they do not.</summary>
    public static (Weight Spent, int Meet) Meet(Reach a, Reach b)
    {
        var (best, at) = (Weight.Never, -1);
        var (x, y) = (a.Nodes, b.Nodes);
        for (int i = 0, j = 0; i < x.Length && j < y.Length; )
        {
            if (x[i] == y[j])
            {
                if (a.Spent[i].Cost + b.Spent[j].Cost < best.Cost)
                {
                    (best, at) = (a.Spent[i] + b.Spent[j], x[i]);
                }

                i++;
                j++;
            }
            else if (x[i] < y[j])
            {
                i++;
            }
            else
            {
                j++;
            }
        }

        return (best, at);
    }

    /// <summary>The edges from a's seed through the meeting node to b's seed, in order, with the node each is left by.</summary>
    public List<(int Edge, int From)> Path(Reach a, Reach b, int meet)
    {
        var path = new List<(int Edge, int From)>();
        var up = new List<(int From, int Link)>();
        for (var v = meet; a.Parent(v) is { From: >= 0 } p; v = p.From)
        {
            up.Add(p);
        }

        for (var k = up.Count - 1; k >= 0; k--)
        {
            Unpack(up[k].From, up[k].Link, path, reversed: false);
        }

        for (var v = meet; b.Parent(v) is { From: >= 0 } p; v = p.From)
        {
            Unpack(p.From, p.Link, path, reversed: true);
        }

        return path;
    }

    /// <summary>Expands a link into edges of the graph: up from a node, or down to it when reversed.</summary>
    private void Unpack(int from, int link, List<(int Edge, int From)> path, bool reversed)
    {
        var to = _to[link];
        if (_via[link] < 0)
        {
            path.Add((-1 - _via[link], reversed ? to : from));
            return;
        }

        var via = _via[link];

        // The bypassed node is below both: its links lead up to either.
        var (toFrom, toTo) = (LinkTo(via, from), LinkTo(via, to));
        if (reversed)
        {
            Unpack(via, toTo, path, reversed: true);
            Unpack(via, toFrom, path, reversed: false);
        }
        else
        {
            Unpack(via, toFrom, path, reversed: true);
            Unpack(via, toTo, path, reversed: false);
        }
    }

    private int LinkTo(int from, int to)
    {
        for (var i = _first[from]; i < _first[from + 1]; i++)
        {
            if (_to[i] == to)
            {
                return i;
            }
        }

        throw new InvalidOperationException("A shortcut uses an edge that does not exist.");
    }

    /// <summary>Adds a link in both directions, or lowers the cost of the existing one.</summary>
    private static void Put(List<Link>[] links, int a, int b, Weight weight, int via)
    {
        One(links[a], b);
        One(links[b], a);

        void One(List<Link> list, int to)
        {
            var at = list.FindIndex(l => l.To == to);
            if (at < 0)
            {
                list.Add(new Link(to, weight, via));
            }
            else if (weight.Cost < list[at].Weight.Cost)
            {
                list[at] = new Link(to, weight, via);
            }
        }
    }

    /// <summary>Which shortcuts contracting a node requires.</summary>
    /// <returns>Shortcuts added less links removed.</returns>
    private static int Contract(int v, List<Link>[] links, int[] rank, Search witness, List<(int A, int B, Weight Weight, int Via)>? made)
    {
        var around = links[v].Where(l => rank[l.To] < 0).ToList();
        var shortcuts = 0;
        for (var i = 0; i < around.Count - 1; i++)
        {
            witness.Run(around[i].To, v, around[i].Weight.Cost + around.Skip(i + 1).Max(l => l.Weight.Cost), WitnessLimit, links, rank);
            for (var j = i + 1; j < around.Count; j++)
            {
                var weight = around[i].Weight + around[j].Weight;
                if (witness.Cost(around[j].To) > weight.Cost)
                {
                    shortcuts++;
                    made?.Add((around[i].To, around[j].To, weight, v));
                }
            }
        }

        return shortcuts - around.Count;
    }

    /// <summary>What is reachable upward from a start.</summary>
    /// <param name="Nodes">Sorted by number, as are the others.</param>
    /// <param name="Spent">Cost from the start to each.</param>
    /// <param name="Parents">From where each was reached and over which link; -1 at a start.</param>
    public sealed record Reach(int[] Nodes, Weight[] Spent, (int From, int Link)[] Parents)
    {
        public (int From, int Link) Parent(int node) => Parents[Array.BinarySearch(Nodes, node)];

        /// <summary>The seed from which a node was reached.</summary>
        public int Seed(int node)
        {
            while (Parent(node) is { From: >= 0 } p)
            {
                node = p.From;
            }

            return node;
        }
    }

    private readonly record struct Link(int To, Weight Weight, int Via);

    /// <summary>Search buffers, reused by each thread.</summary>
    private sealed class Desk
    {
        private int[] _reached = [];

        public Weight[] Spent { get; private set; } = [];

        public (int From, int Link)[] Parent { get; private set; } = [];

        public int[] Settled { get; private set; } = [];

        public List<int> Order { get; } = [];

        public PriorityQueue<int, double> Queue { get; } = new();

        public int RoundTrip { get; private set; }

        public void Begin(int nodes)
        {
            if (_reached.Length < nodes || RoundTrip == int.MaxValue)
            {
                (Spent, Parent, Settled, _reached, RoundTrip) = (
                    new Weight[nodes],
                    new (int From, int Link)[nodes],
                    new int[nodes],
                    new int[nodes],
                    0
                );
            }

            RoundTrip++;
            Order.Clear();
            Queue.Clear();
        }

        public void Offer(int node, Weight spent, int from, int link)
        {
            if (_reached[node] != RoundTrip || spent.Cost < Spent[node].Cost)
            {
                (Spent[node], Parent[node], _reached[node]) = (spent, (from, link), RoundTrip);
                Queue.Enqueue(node, spent.Cost);
            }
        }
    }

    /// <summary>A search for a path around a node.</summary>
    private sealed class Search(int nodes)
    {
        private readonly double[] _cost = new double[nodes];
        private readonly int[] _round = new int[nodes];
        private readonly PriorityQueue<int, double> _queue = new();
        private int _now;

        public double Cost(int node) => _round[node] == _now ? _cost[node] : double.PositiveInfinity;

        public void Run(int from, int around, double max, int limit, List<Link>[] links, int[] rank)
        {
            _now++;
            _queue.Clear();
            Set(from, 0);
            for (var settled = 0; settled < limit && _queue.TryDequeue(out var v, out var at); settled++)
            {
                if (at > max)
                {
                    break;
                }

                if (at > _cost[v])
                {
                    continue;
                }

                foreach (var l in links[v])
                {
                    if (l.To != around && rank[l.To] < 0 && at + l.Weight.Cost < Cost(l.To))
                    {
                        Set(l.To, at + l.Weight.Cost);
                    }
                }
            }
        }

        private void Set(int node, double cost)
        {
            (_cost[node], _round[node]) = (cost, _now);
            _queue.Enqueue(node, cost);
        }
    }
}
