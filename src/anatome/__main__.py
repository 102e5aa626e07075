from anatome.cli import main

raise SystemExit(main())
