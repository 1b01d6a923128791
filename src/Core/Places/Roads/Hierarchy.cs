namespace SteadyLark.Core.Places.Roads;

/// <summary>
/// A contraction hierarchy over an undirected graph: nodes are taken out one by one in order of importance, and where a shortest way led through one,
/// a shortcut stands for it (Geisberger, Sanders, Schultes and Delling, "Contraction Hierarchies", WEA 2008). A search then only goes up, from both ends.
/// </summary>
public sealed class Hierarchy
{
    /// <summary>How far a witness is looked for, in settled nodes. Fewer make more shortcuts, never a wrong way.</summary>
    private const int WitnessLimit = 60;

    private readonly int[] _first;
    private readonly int[] _to;
    private readonly double[] _cost;

    /// <summary>The node that a shortcut leads through, or -1 - edge for an edge of the graph.</summary>
    private readonly int[] _via;

    private Hierarchy(int[] first, int[] to, double[] cost, int[] via) => (_first, _to, _cost, _via) = (first, to, cost, via);

    public int NodeCount => _first.Length - 1;

    /// <param name="nodes">How many nodes there are, numbered from 0.</param>
    /// <param name="edges">Ends and cost, at least 0; an infinite cost leaves an edge out.</param>
    public static Hierarchy Build(int nodes, IReadOnlyList<(int A, int B, double Cost)> edges)
    {
        var links = new List<Link>[nodes];
        for (var i = 0; i < nodes; i++)
        {
            links[i] = new List<Link>(6);
        }

        for (var e = 0; e < edges.Count; e++)
        {
            var (a, b, cost) = edges[e];
            if (a != b && !double.IsInfinity(cost))
            {
                Put(links, a, b, cost, -1 - e);
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
        var made = new List<(int A, int B, double Cost, int Via)>();
        while (queue.TryDequeue(out var v, out var importance))
        {
            if (rank[v] >= 0)
            {
                continue;
            }

            // Its importance may have grown since; then it waits.
            made.Clear();
            var now = (Contract(v, links, rank, witness, made) * 2) + depth[v];
            if (queue.TryPeek(out _, out var least) && now > importance && now > least)
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

            foreach (var (a, b, cost, via) in made)
            {
                Put(links, a, b, cost, via);
            }
        }

        var first = new int[nodes + 1];
        for (var v = 0; v < nodes; v++)
        {
            first[v + 1] = first[v] + upward[v].Count;
        }

        var (to, weight, through) = (new int[first[nodes]], new double[first[nodes]], new int[first[nodes]]);
        for (var v = 0; v < nodes; v++)
        {
            for (var i = 0; i < upward[v].Count; i++)
            {
                (to[first[v] + i], weight[first[v] + i], through[first[v] + i]) = (upward[v][i].To, upward[v][i].Cost, upward[v][i].Via);
            }
        }

        return new Hierarchy(first, to, weight, through);
    }

    /// <summary>Everything that can be reached upward from some nodes with their own beginnings: node, cost, and from where.</summary>
    public Reach Up(IReadOnlyList<(int Node, double Cost)> seeds)
    {
        var cost = new Dictionary<int, double>(256);
        var parent = new Dictionary<int, (int From, int Link)>(256);
        var queue = new PriorityQueue<int, double>();
        foreach (var (node, start) in seeds)
        {
            if (!cost.TryGetValue(node, out var had) || start < had)
            {
                cost[node] = start;
                parent[node] = (-1, -1);
                queue.Enqueue(node, start);
            }
        }

        var settled = new List<int>(256);
        var done = new HashSet<int>(256);
        while (queue.TryDequeue(out var v, out _))
        {
            if (!done.Add(v))
            {
                continue;
            }

            settled.Add(v);
            var at = cost[v];
            for (var i = _first[v]; i < _first[v + 1]; i++)
            {
                var (u, c) = (_to[i], at + _cost[i]);
                if (!cost.TryGetValue(u, out var had) || c < had)
                {
                    cost[u] = c;
                    parent[u] = (v, i);
                    queue.Enqueue(u, c);
                }
            }
        }

        settled.Sort();
        return new Reach(settled, settled.Select(v => cost[v]).ToArray(), parent);
    }

    /// <summary>The least cost between two reaches, and the node where they meet; infinite and -1 when they do not.</summary>
    public static (double Cost, int Meet) Meet(Reach a, Reach b)
    {
        var (best, at) = (double.PositiveInfinity, -1);
        for (int i = 0, j = 0; i < a.Nodes.Count && j < b.Nodes.Count;)
        {
            var (x, y) = (a.Nodes[i], b.Nodes[j]);
            if (x == y)
            {
                if (a.Costs[i] + b.Costs[j] < best)
                {
                    (best, at) = (a.Costs[i] + b.Costs[j], x);
                }

                i++;
                j++;
            }
            else if (x < y)
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

    /// <summary>The edges of the way from a's seed over the meeting node to b's seed, in order, with the node each is left by.</summary>
    public List<(int Edge, int From)> Path(Reach a, Reach b, int meet)
    {
        var path = new List<(int Edge, int From)>();
        var up = new List<(int From, int Link)>();
        for (var v = meet; a.Parents[v] is { From: >= 0 } p; v = p.From)
        {
            up.Add(p);
        }

        for (var k = up.Count - 1; k >= 0; k--)
        {
            Unpack(up[k].From, up[k].Link, path, reversed: false);
        }

        for (var v = meet; b.Parents[v] is { From: >= 0 } p; v = p.From)
        {
            Unpack(p.From, p.Link, path, reversed: true);
        }

        return path;
    }

    /// <summary>Writes a link as edges of the graph: up from a node, or down to it when reversed.</summary>
    private void Unpack(int from, int link, List<(int Edge, int From)> path, bool reversed)
    {
        var to = _to[link];
        if (_via[link] < 0)
        {
            path.Add((-1 - _via[link], reversed ? to : from));
            return;
        }

        var via = _via[link];

        // The node between lies below both: its links lead up to either.
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

        throw new InvalidOperationException("A shortcut leads over a link that is not there.");
    }

    /// <summary>Adds a link in both directions, or cheapens the one there is.</summary>
    private static void Put(List<Link>[] links, int a, int b, double cost, int via)
    {
        One(links[a], b);
        One(links[b], a);

        void One(List<Link> list, int to)
        {
            var at = list.FindIndex(l => l.To == to);
            if (at < 0)
            {
                list.Add(new Link(to, cost, via));
            }
            else if (cost < list[at].Cost)
            {
                list[at] = new Link(to, cost, via);
            }
        }
    }

    /// <summary>Which shortcuts taking a node out needs.</summary>
    /// <returns>Shortcuts more than links that go.</returns>
    private static int Contract(int v, List<Link>[] links, int[] rank, Search witness, List<(int A, int B, double Cost, int Via)>? made)
    {
        var around = links[v].Where(l => rank[l.To] < 0).ToList();
        var shortcuts = 0;
        for (var i = 0; i < around.Count - 1; i++)
        {
            witness.Run(around[i].To, v, around[i].Cost + around.Skip(i + 1).Max(l => l.Cost), WitnessLimit, links, rank);
            for (var j = i + 1; j < around.Count; j++)
            {
                var cost = around[i].Cost + around[j].Cost;
                if (witness.Cost(around[j].To) > cost)
                {
                    shortcuts++;
                    made?.Add((around[i].To, around[j].To, cost, v));
                }
            }
        }

        return shortcuts - around.Count;
    }

    /// <summary>What lies upward of a beginning.</summary>
    public sealed record Reach(IReadOnlyList<int> Nodes, double[] Costs, Dictionary<int, (int From, int Link)> Parents);

    private readonly record struct Link(int To, double Cost, int Via);

    /// <summary>A search that looks whether there is a way around a node.</summary>
    private sealed class Search(int nodes)
    {
        private readonly double[] _cost = new double[nodes];
        private readonly int[] _round = new int[nodes];
        private readonly PriorityQueue<int, double> _queue = new();
        private int _now;

        public double Cost(int node) => _round[node] == _now ? _cost[node] : double.PositiveInfinity;

        public void Run(int from, int around, double most, int limit, List<Link>[] links, int[] rank)
        {
            _now++;
            _queue.Clear();
            Set(from, 0);
            for (var settled = 0; settled < limit && _queue.TryDequeue(out var v, out var at); settled++)
            {
                if (at > most)
                {
                    break;
                }

                if (at > _cost[v])
                {
                    continue;
                }

                foreach (var l in links[v])
                {
                    if (l.To != around && rank[l.To] < 0 && at + l.Cost < Cost(l.To))
                    {
                        Set(l.To, at + l.Cost);
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
